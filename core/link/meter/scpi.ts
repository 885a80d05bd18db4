import { asciiBytes, asciiText, Problem } from '../../kernel'
import { discardInput, type Port } from '../port'

/** Reads the supply, whatever gives the reading: a bench meter, the unit itself, a stand-in. */
export interface Meter {
  readonly name: string
  /** Volts at the unit's terminals, or null when the meter did not answer. */
  volts(): Promise<number | null>
}

/**
 * A bench meter on a serial line that answers `MEAS:VOLT?` (SCPI-1999, volume 2, MEASure subsystem).
 * A number comes as NR1, NR2 or NR3 (IEEE 488.2): `12.41`, `+1.241E+01`.
 */
export function scpiMeter(port: Port, { query = 'MEAS:VOLT?', timeoutMs = 1000 } = {}): Meter {
  return {
    name: port.name,
    async volts() {
      await discardInput(port)
      await port.write(asciiBytes(`${query}\n`))
      let text = ''
      while (!text.includes('\n')) {
        const bytes = await port.read(64, timeoutMs)
        if (!bytes) return null
        text += asciiText(bytes)
        if (text.length > 256) return null
      }
      return readScpiNumber(text.slice(0, text.indexOf('\n')))
    },
  }
}

/**
 * A number as an instrument writes it. 9.9E37 is SCPI's "infinity", 9.91E37 its "not a number": both are refused.
 * @throws Problem `meter-number`.
 */
export function readScpiNumber(text: string): number {
  const trimmed = text.trim()
  const value = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(trimmed) ? Number(trimmed) : NaN
  if (Number.isFinite(value) && Math.abs(value) < 9e37) return value
  throw new Problem({
    kind: 'meter-number',
    says: 'the meter did not answer with a voltage',
    expected: 'a number such as +1.241E+01',
    found: `"${trimmed.slice(0, 40)}"`,
    remedy: 'Set the meter to direct voltage and a range above the supply, then read again.',
  })
}
