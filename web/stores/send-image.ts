import type { AddedAnswer } from '@bench-wake/server'
import { got } from './api'

/**
 * Sends a file to the shelf, with its progress (0 to 1, null where it is not known), which a plain fetch does not tell.
 * @throws Refused with the server's problem where the file does not read.
 */
export function sendImage(
  file: File,
  said: { from: string; address: string },
  onProgress: (share: number | null) => void,
): Promise<AddedAnswer> {
  const body = new FormData()
  body.append('file', file)
  if (said.from.trim()) body.append('from', said.from.trim())
  if (said.address.trim()) body.append('address', said.address.trim())
  const request = new XMLHttpRequest()
  request.upload.onprogress = ({ loaded, total }) => {
    onProgress(total > 0 ? loaded / total : null)
  }
  const answer = new Promise<{ ok: boolean; status: number; headers: Headers; json(): Promise<unknown> }>(
    (resolve, reject) => {
      request.onload = () =>
        resolve({
          ok: request.status < 300,
          status: request.status,
          headers: new Headers({ 'content-type': request.getResponseHeader('content-type') ?? '' }),
          json: async () => JSON.parse(request.responseText),
        })
      request.onerror = () => reject(new Error('no answer'))
    },
  )
  request.open('POST', '/api/images')
  request.send(body)
  return got<AddedAnswer>(answer)
}
