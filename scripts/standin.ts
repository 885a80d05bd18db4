// npm run standin -- NAME [--link PATH] [--speed FACTOR]: puts a demo unit's stand-in behind a pseudo-terminal, for
// outside tools; at a speed of 10 its line and memory are ten times as fast as real ones.
import { scaledClock } from '@bench-wake/core/kernel'
import { demoFamily, demoStandIn, demoUnits } from '@bench-wake/demo'
import { standInOf } from '@bench-wake/standins'
import { drivenLink } from '@bench-wake/core/family'
import { spawn } from 'node:child_process'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { hostTime } from '../server/host-time'

const [name, ...options] = process.argv.slice(2)
const said = (option: string) => {
  const at = options.indexOf(option)
  return at < 0 ? undefined : options[at + 1]
}
const speed = Number(said('--speed') ?? 1)
const odd = options.some((text, at) => at % 2 === 0 && text !== '--link' && text !== '--speed')
const unit = demoUnits.find(({ id, standIn }) => id === name && standIn)
if (!unit || odd || options.length % 2 !== 0 || !(speed > 0)) {
  const names = demoUnits.filter(({ standIn }) => standIn).map(({ id }) => id)
  console.error(
    `Usage: npm run standin -- NAME [--link PATH] [--speed FACTOR]\nNAME is one of: ${names.join(', ')}`,
  )
  process.exit(2)
}
const path = said('--link') ?? join(tmpdir(), `bench-wake-${unit.id}`)
const family = demoFamily(unit.familyId)
const { hardware, flash, lines } = demoStandIn(unit)
const standIn = standInOf(
  {
    id: unit.id,
    name: unit.name,
    family,
    hardware,
    serial: unit.serial,
    state: { flash, usedAh: 0, inBootloader: false, lines },
  },
  unit.standIn?.linkId,
)
const { channel } = standIn.connect(scaledClock(hostTime, speed))
if (channel.kind !== 'serial') {
  console.error(
    `${unit.name} is joined by USB; a pseudo-terminal is a serial line. Use it inside the program.`,
  )
  process.exit(2)
}
const { port } = channel
const link = drivenLink(family, standIn.linkId)!
await port.open(link.line!)

const socat = spawn('socat', [`pty,rawer,link=${path}`, '-'], { stdio: ['pipe', 'pipe', 'inherit'] })
socat.once('error', () => {
  console.error('socat is missing: install it, then try again.')
  process.exit(1)
})
socat.once('exit', () => process.exit(0))
// What the outside tool says goes to the unit in its order, one piece behind the other.
let toUnit: Promise<void> = Promise.resolve()
socat.stdout.on('data', (bytes: Buffer) => {
  toUnit = toUnit.then(() => port.write(new Uint8Array(bytes)))
})
void (async () => {
  for (;;) {
    const bytes = await port.read(4096, Infinity)
    if (bytes) socat.stdin.write(bytes)
  }
})()

console.log(`${unit.name} is at ${path}`)
console.log('Its hands: "entry" and Enter does what the entry wants, "cycle" takes its supply off and on.')
createInterface({ input: process.stdin }).on('line', (line) => {
  if (line.trim() === 'entry') standIn.enter?.()
  else if (line.trim() === 'cycle') standIn.powerCycle()
  else if (line.trim() === 'alone') standIn.unplug?.(family.isolation?.neighbours.map(({ id }) => id) ?? [])
  else if (line.trim()) console.log('entry, cycle or alone')
})
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => socat.kill())
