import { asciiBytes, asciiText, type Clock } from '@bench-wake/core/kernel'
import { type Port } from '@bench-wake/core/link'
import { serialLine } from './line'

/**
 * A bench meter on a serial line: answers `MEAS:VOLT?` with a number in NR3 form (IEEE 488.2), in the 40 ms such
 * a meter takes, and `*IDN?`.
 */
export function scpiMeterUnit(name: string, clock: Clock, volts: () => number): Port {
  const line = serialLine({
    name,
    clock,
    unit: { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 },
  })
  const host = line.host

  async function serve(): Promise<void> {
    let text = ''
    for (;;) {
      const got = await line.unit.read(64, Infinity)
      text += got ? asciiText(got) : ''
      const end = text.indexOf('\n')
      if (end < 0) continue
      const command = text.slice(0, end).trim().toUpperCase()
      text = text.slice(end + 1)
      if (/^MEAS(URE)?:VOLT(AGE)?(:DC)?\?$/.test(command)) {
        await clock.sleep(40)
        await line.unit.write(asciiBytes(`${nr3(volts())}\n`))
      } else if (command === '*IDN?') {
        await line.unit.write(asciiBytes('CORRIE SOUND,BENCH METER,0,1.0\n'))
      }
    }
  }

  return {
    ...host,
    name,
    get settings() {
      return host.settings
    },
    async open(settings) {
      await host.open(settings)
      // Ends when the port is closed: the read fails and the meter falls silent.
      void serve().catch(() => {})
    },
    async close() {
      line.interruptUnit()
      await host.close()
    },
  }
}

/** `+1.241000E+01` */
function nr3(value: number): string {
  const [mantissa, exponent] = value.toExponential(6).split('e')
  const power = Number(exponent)
  const digits = String(Math.abs(power)).padStart(2, '0')
  return `${value < 0 ? '' : '+'}${mantissa}E${power < 0 ? '-' : '+'}${digits}`
}
