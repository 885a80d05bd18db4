import type { Component, Exchange, Link } from '../../family'
import { isProblem, Problem } from '../../kernel'
import { askConsole, type Asking } from './text-console'
import { insist } from '../insist'
import { checksumVerification, type Loader } from '../loader'
import type { Port } from '../port'
import { sendYmodem } from '../ymodem'
import { sendXmodem, type SendForm } from '../xmodem'

/**
 * A bootloader with a text console that takes the image by XMODEM or as a YMODEM batch of one file. Its words come from the family's profile, so
 * that another unit of this kind needs a profile and no code; `{component}` in them is the component's name, where several
 * sit behind one port.
 * @param port open, with the link's settings.
 */
export function consoleLoader(port: Port, link: Link, component: Pick<Component, 'id'>): Loader {
  const words = link.loader
  const ask = (exchange: Exchange, asking: Asking = {}) =>
    askConsole(port, link.console, exchange, {
      ...asking,
      values: { component: component.id, ...asking.values },
    })

  return {
    can: { read: false, erase: true, verify: 'checksum', resume: words.resumes ?? false },

    async attach() {
      try {
        // What it refuses first may be the rest of what went before: a transfer that was cancelled.
        await insist(() => ask({ send: '', timeoutMs: words.identify.timeoutMs }, { until: words.ready }), {
          tries: 2,
          passing: ['unit-refused'],
        })
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

    async write(address, bytes, report, abandon, from = 0) {
      const rest = bytes.subarray(from)
      // The line that announces the transfer ends the console's answer; from there on the blocks have the line.
      await ask(words.write, {
        values: { address: address + from, length: rest.length },
        until: words.write.reads ?? link.console.done,
      })
      const { blockBytes, padByte } = words
      const form: SendForm = {
        blockBytes,
        padByte,
        abandon,
        report: ({ done, retries }) =>
          report({ done: from + done, total: bytes.length, unit: 'bytes', retries }),
      }
      if (words.protocol === 'ymodem') {
        await sendYmodem(port, [{ name: `${component.id}.bin`, bytes: rest }], form)
      } else await sendXmodem(port, rest, form)
      await ask({ send: '', timeoutMs: words.write.timeoutMs }, { until: words.ready })
    },

    async verify(address, bytes) {
      const answer = await ask(words.checksum, { values: { address, length: bytes.length } })
      const found = (answer.values['crc32'] ?? '').toUpperCase()
      return checksumVerification(bytes, found)
    },

    async leave() {
      await ask(words.leave)
    },
  }
}
