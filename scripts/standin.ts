// npm run standin -- NAME | PROFILE.json [--link PATH] [--speed FACTOR]: puts a stand-in behind a pseudo-terminal, of a
// demo unit or of a profile whose link is data, for outside tools; at a speed of 10 its line and memory are ten times as fast as real ones.
import { scaledClock } from '@bench-wake/core/kernel'
import { applicationRegions, componentOf, drivenLink, readFamily } from '@bench-wake/core/family'
import { readImageFile } from '@bench-wake/core/image'
import { demoFamily, demoStandIn, demoUnits } from '@bench-wake/demo'
import { memoryBytes, standInOf } from '@bench-wake/standins'
import { spawn } from 'node:child_process'
import { existsSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { hostTime } from '../server/host-time'

const [name, ...options] = process.argv.slice(2)
const known = ['--link', '--speed', '--image', '--hardware', '--serial']
const said = (option: string) => {
  const at = options.indexOf(option)
  return at < 0 ? undefined : options[at + 1]
}
const speed = Number(said('--speed') ?? 1)
const odd = options.some((text, at) => at % 2 === 0 && !known.includes(text))
const unit = demoUnits.find(({ id, standIn }) => id === name && standIn)
if (!name || odd || options.length % 2 !== 0 || !(speed > 0) || (!unit && !existsSync(name))) {
  const names = demoUnits.filter(({ standIn }) => standIn).map(({ id }) => id)
  console.error(
    [
      'Usage: npm run standin -- NAME [--link PATH] [--speed FACTOR]',
      `NAME is one of: ${names.join(', ')}`,
      '   or: npm run standin -- PROFILE.json [--image FILE] [--hardware 2] [--serial S-1] [--link PATH] [--speed FACTOR]',
    ].join('\n'),
  )
  process.exit(2)
}

/** A unit of a profile on disk: empty and in its bootloader, or with an image in it. */
function ofProfile(file: string) {
  const family = readFamily(JSON.parse(readFileSync(file, 'utf8')))
  const flash = new Uint8Array(memoryBytes(family)).fill(family.components[0]!.memory.erasedByte)
  const image = said('--image')
  if (image) {
    const [region] = applicationRegions(componentOf(family))
    const { memory } = readImageFile(new Uint8Array(readFileSync(image)), { address: region!.address })
    for (const { address, bytes } of memory) flash.set(bytes, address - region!.address)
  }
  return {
    family,
    name: family.name,
    form: {
      id: family.id,
      name: family.name,
      family,
      hardware: said('--hardware') ?? String(family.hardware.revisions[0]!.major),
      serial: said('--serial') ?? 'S-1',
      state: { flash, usedAh: 0, inBootloader: !image, lines: {} },
    },
  }
}
function ofDemo(demo: (typeof demoUnits)[number]) {
  const family = demoFamily(demo.familyId)
  const { hardware, flash, lines } = demoStandIn(demo)
  const { id, name: shown, serial } = demo
  const state = { flash, usedAh: 0, inBootloader: false, lines }
  return { family, name: shown, form: { id, name: shown, family, hardware, serial, state } }
}
const { family, name: shownName, form } = unit ? ofDemo(unit) : ofProfile(name)
const path = said('--link') ?? join(tmpdir(), `bench-wake-${form.id}`)
const standIn = standInOf(form, unit?.standIn?.linkId)
const { channel } = standIn.connect(scaledClock(hostTime, speed))
if (channel.kind !== 'serial') {
  console.error(
    `${shownName} is joined by USB; a pseudo-terminal is a serial line. Use it inside the program.`,
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
// What the outside tool says goes to the unit in its order, one piece after the other.
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

console.log(`${shownName} is at ${path}`)
console.log('Its hands: "entry" and Enter does what the entry wants, "cycle" takes its supply off and on.')
createInterface({ input: process.stdin }).on('line', (line) => {
  if (line.trim() === 'entry') standIn.enter?.()
  else if (line.trim() === 'cycle') standIn.powerCycle()
  else if (line.trim() === 'alone') standIn.unplug?.(family.isolation?.neighbours.map(({ id }) => id) ?? [])
  else if (line.trim()) console.log('entry, cycle or alone')
})
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => socat.kill())
