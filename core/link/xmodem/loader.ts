import type { Exchange, Link } from '../../family'
import { bytesText, crc32, hexNumber, isProblem, Problem } from '../../kernel'
import { askConsole, type Asking } from '../console/text-console'
import type { Loader } from '../loader'
import type { Port } from '../port'
import { sendXmodem } from './send'

/**
 * A bootloader with a text console that takes the image by XMODEM. Its words come from the family's profile, so
 * that another unit of this kind needs a profile and no code.
 * @param port open, with the link's settings.
 */
export function xmodemLoader(port: Port, link: Link): Loader {
  const words = link.loader
  const ask = (exchange: Exchange, asking?: Asking) => askConsole(port, link.console, exchange, asking)

  return {
    can: { read: false, erase: true, verify: 'checksum', resume: false },

    async attach() {
      try {
        await ask({ send: '', timeoutMs: words.identify.timeoutMs }, { until: words.ready })
      } catch (error) {
        if (!isProblem(error, 'no-answer') && !isProblem(error, 'unit-refused')) throw error
        throw new Problem({
          kind: 'no-bootloader',
          thing: port.name,
          says: 'the bootloader does not answer',
          expected: `"${words.ready}"`,
          found: error.facts.found ?? 'silence',
          remedy: 'The unit is unchanged. Enter the bootloader again; after that check the wiring.',
        })
      }
    },

    async identify() {
      return (await ask(words.identify)).lines
    },

    async erase(range, report) {
      await ask(words.erase, {
        values: { ...range },
        onProgress: (done, total) => report({ done, total, unit: 'sectors', retries: 0 }),
      })
    },

    async write(address, bytes, report, abandon) {
      // The line that announces the transfer ends the console's answer; from there on the blocks have the line.
      await ask(words.write, {
        values: { address, length: bytes.length },
        until: words.write.reads ?? link.console.done,
      })
      await sendXmodem(port, bytes, {
        blockBytes: words.blockBytes,
        padByte: words.padByte,
        report,
        abandon,
      })
      await ask({ send: '', timeoutMs: words.write.timeoutMs }, { until: words.ready })
    },

    async verify(address, bytes) {
      const answer = await ask(words.checksum, { values: { address, length: bytes.length } })
      const expected = hexNumber(crc32(bytes), 8)
      const found = (answer.values['crc32'] ?? '').toUpperCase()
      const over = `over ${bytesText(bytes.length)}`
      return {
        how: 'checksum',
        ok: found === expected,
        expected: `CRC-32 ${expected} ${over}`,
        found: found ? `CRC-32 ${found} ${over}` : 'no checksum',
      }
    },

    async leave() {
      await ask(words.leave)
    },
  }
}
