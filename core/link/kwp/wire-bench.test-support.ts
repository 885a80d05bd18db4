import { kwpUnit, serialLine, type Disturb, type KwpUnitForm } from '@bench-wake/standins'
import { asciiBytes, virtualClock } from '../../kernel'
import type { SerialSettings } from '../port'
import { udsClient } from '../uds'
import { kwpTransport, type Edge, type KwpForm } from '.'

/** What differs from a usual controller and a usual tester. */
export interface WireBenchForm {
  unit?: Partial<KwpUnitForm>
  tester?: Partial<KwpForm>
  baudRate?: number
  disturb?: Disturb
}

/** A controller that reads F190 on a single wire, with the tester beside it. */
export async function wireBench({ unit: own, tester: ours, baudRate = 10_400, disturb }: WireBenchForm = {}) {
  const clock = virtualClock(() => new Promise<void>((done) => setImmediate(done)))
  const settings: SerialSettings = { baudRate, dataBits: 8, parity: 'none', stopBits: 1 }
  const edges: Edge[] = []
  let waiting: ((edge: Edge) => void) | undefined
  let low = false
  const line = serialLine({
    name: 'line',
    clock,
    unit: settings,
    echo: true,
    ...(disturb ? { disturb } : {}),
    onLines: ({ brk }) => {
      if (brk === undefined || brk === low) return
      low = brk
      const edge = { low, at: clock.now() }
      if (waiting) waiting(edge)
      else edges.push(edge)
      waiting = undefined
    },
  })
  await line.host.open(settings)
  const unit = kwpUnit(line.unit, clock, {
    address: 0x11,
    wakes: ['fast', 'five-baud'],
    ...own,
    nextEdge: () => {
      const first = edges.shift()
      return first ? Promise.resolve(first) : new Promise((settle) => (waiting = settle))
    },
  })
  const serve = async () => {
    for (;;) {
      const request = await unit.receive(Infinity)
      if (request?.[0] === 0x22) await unit.send(Uint8Array.of(0x62, 0xf1, 0x90, ...asciiBytes('LM-7')))
    }
  }
  void serve().catch(() => {})
  const tester = kwpTransport(line.host, clock, { target: 0x11, source: 0xf1, wake: 'fast', ...ours })
  return { clock, tester, client: udsClient(tester, clock), line }
}
