import type { Component, Exchange, Link } from '../../family'
import { isProblem, Problem } from '../../kernel'
import { askConsole, type Asking } from './text-console'
import { insist } from '../insist'
import { checksumVerification } from '../check'
import type { Abandon, Loader, Report } from '../loader'
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
  const { rehearsal } = words
  const ask = (exchange: Exchange, asking: Asking = {}) =>
    askConsole(port, link.console, exchange, {
      ...asking,
      values: { component: component.id, ...asking.values },
    })

  async function transfer(
    exchange: Exchange,
    address: number,
    bytes: Uint8Array,
    report: Report,
    abandon: Abandon,
    from: number,
  ): Promise<void> {
    const rest = bytes.subarray(from)
    // The line that announces the transfer ends the console's answer; from there on the blocks have the line.
    await ask(exchange, {
      values: { address: address + from, length: rest.length },
      until: exchange.reads ?? link.console.done,
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
    await ask({ send: '', timeoutMs: exchange.timeoutMs }, { until: words.ready })
  }

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

    write: (address, bytes, report, abandon, from = 0) =>
      transfer(words.write, address, bytes, report, abandon, from),
    ...(rehearsal && {
      rehearse: (address, bytes, report, abandon) => transfer(rehearsal, address, bytes, report, abandon, 0),
    }),

    verify: (address, bytes) =>
      checksumVerification(bytes, async (offset, length) => {
        const answer = await ask(words.checksum, { values: { address: address + offset, length } })
        return (answer.values['crc32'] ?? '').toUpperCase()
      }),

    async leave() {
      await ask(words.leave)
    },
  }
}
