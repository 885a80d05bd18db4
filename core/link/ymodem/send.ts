import { isProblem } from '../../kernel'
import type { Port } from '../port'
import { awaitStart, encodeBlock, sendBlock, sendBlocks, sendEnd, type SendForm, type Sent } from '../xmodem'
import { encodeHeader } from './header'

/** A file of a batch. */
export interface BatchFile {
  name: string
  bytes: Uint8Array
  /** When it was changed, ms since 1970. */
  changedAt?: number
}

/**
 * Sends files as a YMODEM batch: each with its header block 0, then its data as XMODEM, and an empty header at the
 * end (Forsberg 1988, section 5). Progress counts over all files.
 * @throws the Problems of `sendXmodem`.
 */
export async function sendYmodem(port: Port, files: readonly BatchFile[], form: SendForm): Promise<Sent[]> {
  const total = files.reduce((sum, { bytes }) => sum + bytes.length, 0)
  const startMs = form.startTimeoutMs ?? 60_000
  const all: Sent[] = []
  let before = 0
  let headerRetries = 0
  for (const { name, bytes, changedAt } of files) {
    const asked = await awaitStart(port, startMs, all.length === 0 ? 'boot' : 'peer')
    const header = encodeHeader({
      name,
      size: bytes.length,
      ...(changedAt === undefined ? {} : { changedAt }),
    })
    headerRetries += await sendBlock(port, encodeBlock(0, header, asked), form, { at: before, first: true })
    const check = await awaitStart(port, startMs, 'peer')
    const retriesBefore = all.reduce((sum, { retries }) => sum + retries, headerRetries)
    const sent = await sendBlocks(port, bytes, check, {
      ...form,
      report: ({ done, retries }) =>
        form.report?.({ done: before + done, total, unit: 'bytes', retries: retriesBefore + retries }),
    })
    await sendEnd(port, before + bytes.length, form)
    all.push(sent)
    before += bytes.length
  }
  const asked = await awaitStart(port, startMs, files.length === 0 ? 'boot' : 'peer')
  try {
    await sendBlock(port, encodeBlock(0, encodeHeader(null), asked), form, { at: total, first: true })
  } catch (error) {
    // Every file is acknowledged to its end by now; a lost answer to the goodbye loses nothing.
    if (!isProblem(error, 'xmodem-gave-up')) throw error
  }
  return all
}
