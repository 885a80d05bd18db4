import { asciiBytes, asciiText, bytesOfHex, hexOf } from '@bench-wake/core/kernel'
import type { SerialSettings, TraceEvent } from '@bench-wake/core/link'
import { onScopeDispose, ref } from 'vue'
import { api, got } from '../../stores/api'

/** A piece of what went over the port, one way. */
export interface Said {
  direction: 'out' | 'in'
  text: string
}
/** Older text is let go; the trace of the port has it. */
const maxText = 20_000

/** A port that a person looks at and writes to by hand. */
export function useTerminal() {
  const open = ref(false)
  const said = ref<Said[]>([])
  let port = ''
  let stream: EventSource | undefined

  const take = (event: TraceEvent) => {
    if (event.what !== 'data') return
    const text = asciiText(bytesOfHex(event.bytes))
    const last = said.value.at(-1)
    if (last?.direction === event.direction) last.text = (last.text + text).slice(-maxText)
    else said.value = [...said.value.slice(-80), { direction: event.direction, text }]
  }

  /** Lets a port go that a terminal holds, this page's or one that was left open by a page that is gone. */
  const release = (portId: string) => got(api.ports.listen.end.$post({ json: { port: portId } }))

  async function start(portId: string, settings: SerialSettings): Promise<void> {
    await release(portId)
    await got(api.ports.listen.$post({ json: { port: portId, settings: bare(settings) } }))
    port = portId
    open.value = true
    said.value = []
    const since = Date.now()
    stream = new EventSource(`/api/ports/trace/live?port=${encodeURIComponent(portId)}`)
    stream.addEventListener('trace', (message) => {
      for (const event of JSON.parse((message as MessageEvent<string>).data) as TraceEvent[])
        if (event.at >= since - 2000) take(event)
    })
  }
  const bare = ({ baudRate, dataBits, parity, stopBits }: SerialSettings) => ({
    baudRate,
    dataBits,
    parity,
    stopBits,
  })
  /** @param form a text and what ends it, or bytes in pairs of digits. */
  const send = (form: { text: string; lineEnd: string } | { hex: string }) =>
    got(
      api.ports.listen.send.$post({
        json: {
          port,
          hex: 'hex' in form ? form.hex.replace(/\s+/g, '') : hexOf(asciiBytes(form.text + form.lineEnd)),
        },
      }),
    )
  const setLines = (lines: { dtr?: boolean; rts?: boolean; breakMs?: number }) =>
    got(api.ports.listen.lines.$post({ json: { port, ...lines } }))
  const set = (settings: SerialSettings) =>
    got(api.ports.listen.set.$post({ json: { port, settings: bare(settings) } }))

  async function end(): Promise<void> {
    stream?.close()
    stream = undefined
    if (!open.value) return
    open.value = false
    await got(api.ports.listen.end.$post({ json: { port } }))
  }
  onScopeDispose(() => void end().catch(() => {}))
  const clear = () => (said.value = [])
  /** What the unit said since the last thing that was sent. */
  const heard = () => {
    const last = said.value.at(-1)
    return last?.direction === 'in' ? last.text : ''
  }
  return { open, said, release, start, send, setLines, set, end, clear, heard }
}
