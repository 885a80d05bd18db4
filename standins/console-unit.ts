import { fillTemplate, pageLine, readTemplate, type Exchange, type Link } from '@bench-wake/core/family'
import { asciiBytes, asciiText, crc32, hexNumber, isProblem } from '@bench-wake/core/kernel'
import { receiveXmodem, receiveYmodem, type Port } from '@bench-wake/core/link'
import { serialLine, type Disturb, type Line } from './line'
import type { StandIn } from './stand-in'
import { unitMemory, type UnitForm } from './unit-memory'

/*
 * A unit with a text console in its firmware and another in its bootloader, as its family's papers have their words: the
 * quayside relay, the davit with six controllers behind one jack, the radio on its programming cable.
 */

const bootMs = 900

export function consoleUnit(form: UnitForm & { link: Link; disturb?: Disturb }): StandIn {
  const { family, state, link } = form
  const { console: firmware, loader } = link
  const volts = () => family.power.nominalVolts
  let life = 0
  let restart: (inBootloader: boolean) => void = (inBootloader) => {
    state.inBootloader = inBootloader
  }

  return {
    id: form.id,
    name: form.name,
    familyId: family.id,
    linkId: link.id,
    channel: 'serial',
    hasMeter: false,
    connect(clock) {
      const memory = unitMemory(form, clock, volts)
      const line: Line = serialLine({
        name: form.name,
        clock,
        unit: link.settings,
        follows: () => (state.inBootloader ? (loader.speeds ?? []) : []),
        ...(form.disturb ? { disturb: form.disturb } : {}),
      })
      const { host, unit } = line
      const say = async (...lines: string[]) => {
        for (const each of lines) await unit.write(asciiBytes(`${each}\r\n`))
      }
      const refuse = (reason: string) => say(fillTemplate(firmware.refused, { reason }))
      const done = () => say(firmware.done)

      const command = async (): Promise<string> => {
        let text = ''
        for (;;) {
          const byte = await unit.read(1, Infinity)
          const character = byte ? asciiText(byte) : ''
          if (character === '\r' || character === '\n') return text.trim()
          text += character
          if (text.length > 120) text = ''
        }
      }
      /** What a command of the papers is asked for, or null when it is another. */
      const asked = (exchange: Exchange, text: string) => {
        const slots = readTemplate(exchange.send, text)
        if (!slots) return null
        const id = slots['component'] ?? family.components[0]!.id
        const address = parseInt(slots['address'] ?? '', 16)
        const length = parseInt(slots['length'] ?? '', 16)
        return { id, address, length }
      }
      const erase = async (id: string, address: number, length: number) => {
        if (!memory.covers(id, address, length)) return refuse('outside the application')
        // Settings that an update may change are lost by this one: the next page shows it.
        for (const { field, change } of family.snapshot) {
          if (change === 'may' && state.lines?.[field] && !field.includes('.')) state.lines[field] = 'factory'
        }
        await memory.flash(id).erase(address, length, (count, total) => {
          const { progress } = loader.erase
          return progress ? say(fillTemplate(progress, { done: count, total })) : Promise.resolve()
        })
        await done()
      }
      const load = async (id: string, address: number, mine: number, exchange = loader.write) => {
        if (!memory.covers(id, address, 1)) return refuse('outside the application')
        await say(fillTemplate(exchange.reads ?? firmware.done, { component: id }))
        const { length, address: start } = memory.region(id)
        const program = async (data: Uint8Array, at: number) => {
          // Padding behind the last byte of the memory is thrown away; anything else there is refused.
          const fits = start + length - (address + at)
          if (data.subarray(Math.max(0, fits)).some((byte) => byte !== loader.padByte)) {
            throw new RangeError('past the end')
          }
          if (exchange !== loader.rehearsal)
            await memory.flash(id).program(address + at, data.subarray(0, Math.max(0, fits)))
        }
        try {
          if (loader.protocol === 'ymodem') {
            await receiveYmodem(unit, { onFile: () => {}, onData: program })
          } else await receiveXmodem(unit, { onBlock: program })
          await done()
        } catch (error) {
          if (life !== mine) throw error
          await refuse(isProblem(error) ? error.facts.says : 'past the end of the memory')
        }
      }
      const boot = async (mine: number) => {
        await say(loader.ready)
        while (life === mine) {
          const text = await command()
          const erases = asked(loader.erase, text)
          const writes = asked(loader.write, text)
          const rehearses = loader.rehearsal ? asked(loader.rehearsal, text) : null
          const checks = asked(loader.checksum, text)
          if (text === '') await say(loader.ready)
          else if (text === loader.identify.send) {
            const lines = ['deviceIdentifier', 'hardware', 'serial'].flatMap((field) =>
              pageLine(family, field, memory.line(field) ?? ''),
            )
            await say(...lines)
            await done()
          } else if (erases) await erase(erases.id, erases.address, erases.length)
          else if (rehearses) await load(rehearses.id, rehearses.address, mine, loader.rehearsal)
          else if (writes) await load(writes.id, writes.address, mine)
          else if (checks) {
            const { id, address, length } = checks
            if (!memory.covers(id, address, length)) await refuse('outside the application')
            else {
              const { bytes, address: start } = memory.flash(id)
              const sum = crc32(bytes.subarray(address - start, address - start + length))
              await say(fillTemplate(loader.checksum.reads!, { crc32: hexNumber(sum, 8) }))
              await done()
            }
          } else if (text === loader.leave.send) {
            if (!memory.intact()) await refuse('no application')
            else {
              await done()
              await clock.sleep(bootMs)
              state.inBootloader = false
              return
            }
          } else await refuse('unknown command')
        }
      }
      /** The way into the bootloader that the running firmware takes at this word. */
      const wayByCommand = (text: string) =>
        family.entry.find((way) => way.kind === 'command' && way.send === text)
      const run = async (mine: number) => {
        while (life === mine) {
          const text = await command()
          if (text === firmware.identify.send) {
            await say(
              ...family.snapshot.flatMap(({ field }) => {
                const value = memory.line(field)
                return value === null ? [] : pageLine(family, field, value)
              }),
            )
            await done()
          } else if (wayByCommand(text)) {
            await done()
            await clock.sleep(wayByCommand(text)!.settleMs / 2)
            state.inBootloader = true
            return
          } else if (text !== '') await refuse('unknown command')
        }
      }
      const live = async (mine: number) => {
        while (life === mine) {
          if (!memory.intact()) state.inBootloader = true
          await (state.inBootloader ? boot(mine) : run(mine))
        }
      }
      const begin = (inBootloader: boolean) => {
        state.inBootloader = inBootloader || !memory.intact()
        line.interruptUnit()
        // Ends when the port is closed or the supply is taken away: its read fails.
        void live(++life).catch(() => {})
      }
      const port: Port = {
        ...host,
        get settings() {
          return host.settings
        },
        async open(settings) {
          await host.open(settings)
          restart = begin
          begin(state.inBootloader)
        },
        async close() {
          life++
          line.interruptUnit()
          restart = (inBootloader) => {
            state.inBootloader = inBootloader
          }
          await host.close()
        },
      }
      return {
        channel: { kind: 'serial', port },
      }
    },
    powerCycle: () => restart(false),
    enter: () => restart(true),
    state: () => state,
  }
}
