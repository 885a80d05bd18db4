import type { AddedAnswer } from '@bench-wake/server'
import { sendForm } from './send-form'

/** Sends a file to the shelf. @throws Refused with the server's problem where the file does not read. */
export const sendImage = (
  file: File,
  { from, address }: { from: string; address: string },
  onProgress: (share: number | null) => void,
): Promise<AddedAnswer> =>
  sendForm<AddedAnswer>(
    '/api/images',
    file,
    {
      ...(from.trim() ? { from: from.trim() } : {}),
      ...(address.trim() ? { address: address.trim() } : {}),
    },
    onProgress,
  )
