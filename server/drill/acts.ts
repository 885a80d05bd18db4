import { beginEntry, judgeEntry, offText, type EntryState } from '@bench-wake/core/entry'
import { applicationRegions } from '@bench-wake/core/family'
import { judgeFit } from '@bench-wake/core/fit'
import { rangesOf, type MemoryMap } from '@bench-wake/core/image'
import { equalBytes, groupedNumber, sha256Hex, voltsText } from '@bench-wake/core/kernel'
import { scanBus } from '@bench-wake/core/link'
import { judgeBackup } from '@bench-wake/core/proof'
import { judgeJobPower, type SupplySay } from '@bench-wake/core/ready'
import { planRun, stretchesOf } from '@bench-wake/core/run'
import { DrillBench } from './drill-bench'

/** A drill as it is played: what each move does to the bench, and what the bench then says. */
export interface DrillPlay {
  bench: DrillBench
  /** What stands at the beginning. */
  told: string[]
  acts: Record<string, () => Promise<string[]> | string[]>
}

const nothing = () => []

/** PRACTICE H7: the plug came out at six tenths. */
async function cutAt60(): Promise<DrillPlay> {
  const bench = new DrillBench({
    unitId: 'fog-07',
    linkId: 'service',
    component: 'main',
    fields: { version: '2.48' },
  })
  bench.unit.enter?.()
  const { says } = await bench.write(bench.memory, {
    at: Math.floor(0.6 * bench.bytes),
    by: () => (bench.cableIn = false),
  })
  return {
    bench,
    told: says,
    acts: {
      'leave-on': nothing,
      plug: async () => {
        bench.cableIn = true
        await bench.unjoin()
        return ['The port is listed again.']
      },
      're-enter': async () => (await bench.hear()).says,
      'write-again': async () => (await bench.write()).says,
      prove: () => bench.prove(),
      'power-off': async () => {
        bench.unit.powerCycle()
        if (!bench.cableIn)
          return ['The lamp went out and came on again. Nobody can ask it: the plug is out.']
        return (await bench.hear()).says
      },
      resume: async () => {
        const { loader } = await bench.joined()
        return [
          loader.can.resume
            ? 'Its papers say that it can go on.'
            : 'Its papers: a transfer begins at the first byte.',
        ]
      },
      older: () => fitWords(bench, bench.imageWith({ version: '2.40' }), { main: '2.48' }),
    },
  }
}

/** PRACTICE F1: transmit on transmit. */
async function swappedPair(): Promise<DrillPlay> {
  const bench = new DrillBench({
    unitId: 'relay-2',
    linkId: 'header',
    component: 'relay',
    fields: { version: '2.1' },
  })
  bench.swapped = true
  const asked = async () => (await bench.hear()).says
  return {
    bench,
    told: await asked(),
    acts: {
      'look-pair': asked,
      swap: () => {
        bench.swapped = false
        return []
      },
      try: () => {
        bench.unit.enter?.()
        return asked()
      },
      higher: () => ['The board draws nothing any more. The drill goes on with another one.'],
      driver: async () => ['The port opens as before.', ...(await asked())],
      'other-image': asked,
    },
  }
}

/** PRACTICE D1: the supply that would not last. */
async function sag(): Promise<DrillPlay> {
  const bench = new DrillBench({
    unitId: 'launch-2',
    linkId: 'bus',
    component: 'drive',
    fields: { version: '4.1', requiresFrom: '3.2' },
  })
  const { family, component, link, loads } = bench
  const stretches = stretchesOf(family.power, planRun(family, component, link, loads))
  let say: SupplySay = { measured: { volts: 12.1, shed: [], charger: null } }
  const judged = (): string[] => {
    const gate = judgeJobPower(family, say, stretches, null)?.gate
    return gate ? gate.findings.map(({ says }) => says) : []
  }
  const tried = async (breaks?: Parameters<DrillBench['write']>[1]) => {
    bench.unit.enter?.()
    return (await bench.write(bench.memory, breaks)).says
  }
  return {
    bench,
    told: judged(),
    acts: {
      hold: judged,
      fuse: () => {
        say = { ...say, shed: ['headlamps'] }
        return judged()
      },
      charger: () => {
        say = { ...say, charger: { amps: 20, volts: 14.4 } }
        return judged()
      },
      measure: () => {
        say = { ...say, measured: { volts: 12.9, shed: say.shed ?? [], charger: say.charger ?? null } }
        return judged()
      },
      start: () => tried(),
      quick: async () => {
        const at = Math.floor(0.8 * bench.bytes)
        return tried({ at, by: () => bench.unit.powerCycle() })
      },
      engine: () => [
        `A starter draws hundreds of amperes; the floor is ${voltsText(family.power.floorVolts)}.`,
      ],
      floor: () => [`The profile says ${voltsText(family.power.floorVolts)}.`, ...judged()],
    },
  }
}

/** PRACTICE F4: two units hear one write. */
async function secondUnit(): Promise<DrillPlay> {
  const bench = new DrillBench({
    unitId: 'battery-14',
    linkId: 'bus',
    component: 'bms',
    fields: { version: '31.09' },
  })
  const { family } = bench
  const scanned = async (): Promise<string[]> => {
    const { from, to } = family.isolation!.scan!
    await bench.unjoin()
    const { channel } = bench.unit.connect(bench.clock)
    if (channel.kind !== 'serial' || bench.link.kind === 'serial') return []
    await channel.port.open(bench.link.line!)
    const { found, garbled, silent } = await scanBus(channel.port, from, to, { answerMs: 200 })
    await channel.port.close()
    return [
      ...found.map(({ address, product }) => `Address ${address}: ${product ?? 'a unit'}.`),
      ...garbled.map((address) => `Address ${address}: noise.`),
      `${silent} addresses are silent.`,
    ]
  }
  return {
    bench,
    told: await scanned(),
    acts: {
      stop: nothing,
      unplug: () => {
        bench.unit.unplug?.(family.isolation!.neighbours.map(({ id }) => id))
        return []
      },
      switch: nothing,
      scan: scanned,
      write: async () => {
        const { says } = await bench.write()
        return [...says, ...(await bench.prove())]
      },
      'address-2': scanned,
      slower: scanned,
    },
  }
}

/** PRACTICE B7: two forms of one version. */
async function wrongVariant(): Promise<DrillPlay> {
  const bench = new DrillBench({
    unitId: 'radio-3',
    linkId: 'cable',
    component: 'main',
    fields: { version: '4.08', variant: 'low-channel' },
  })
  const high = bench.imageWith({ version: '4.08', variant: 'high-channel' })
  const words = (memory: MemoryMap) => {
    const { version, variant } = bench.identify(memory)!
    return `Version ${version}, ${variant}, SHA-256 ${sha256Hex(memory[0]!.bytes).slice(0, 12)}….`
  }
  const tried = async (memory: MemoryMap) => {
    bench.unit.enter?.()
    return (await bench.write(memory)).says
  }
  return {
    bench,
    told: [words(bench.memory), words(high)],
    acts: {
      ask: nothing,
      choose: () => [words(bench.memory)],
      check: () => [words(bench.memory)],
      write: async () => [...(await tried(bench.memory)), ...(await bench.prove())],
      any: () => fitWords(bench, high, { main: '4.07a' }, { 'signal-output': 'low-channel' }),
      both: async () => {
        await tried(bench.memory)
        await tried(high)
        return [bench.holds(high) ? 'In the unit now: high-channel. The first is gone.' : 'It holds neither.']
      },
    },
  }
}

/** PRACTICE E7, E8: two seconds behind the key. */
async function missedWindow(): Promise<DrillPlay> {
  const bench = new DrillBench({
    unitId: 'launch-2',
    linkId: 'bus',
    component: 'drive',
    fields: { version: '4.1', requiresFrom: '3.2' },
  })
  const { script } = bench.family.entry.find((way) => way.script)!
  /** A try up to the key, then the confirmation so long behind it. */
  const joinedAndKey = (): EntryState => {
    const at = bench.clock.now()
    return script!.acts
      .filter(({ act }) => act !== 'confirm')
      .reduce(
        (state, { act, what }, index) =>
          judgeEntry(state, { at: at + 500 * (index + 1), type: 'did', act, what }),
        beginEntry(script!, at),
      )
  }
  let state = joinedAndKey()
  const confirm = (afterMs: number) => {
    const { act, what } = script!.acts.find((each) => each.act === 'confirm')!
    state = judgeEntry(state, { at: state.lastAt + afterMs, type: 'did', act, what })
    const { failure } = state
    return failure ? [[offText(failure), failure.why].filter(Boolean).join(': ')] : ['In time.']
  }
  return {
    bench,
    told: confirm(2600),
    acts: {
      'key-off': () => {
        bench.unit.powerCycle()
        return []
      },
      wait: async () => {
        await bench.clock.sleep(10_000)
        return []
      },
      again: () => {
        state = joinedAndKey()
        return ['The window is open.']
      },
      confirm: () => confirm(900),
      quiet: async () => {
        state = judgeEntry(state, { at: state.lastAt + 600, type: 'sign', id: 'silence' })
        bench.unit.enter?.()
        return (await bench.hear()).says
      },
      'write-on': () => ['Nobody confirmed in time: the controller still drives its motor.'],
      'start-motor': nothing,
      'confirm-late': () => confirm(5000),
    },
  }
}

/** PRACTICE G5: a backup that is none. */
async function badBackup(): Promise<DrillPlay> {
  const bench = new DrillBench({
    unitId: 'tide-2',
    linkId: 'usb',
    component: 'logger',
    fields: { version: '2026-03-16' },
  })
  const { family, component } = bench
  const region = applicationRegions(component)[0]!
  let read: Uint8Array[] = []
  const judged = (bytes: Uint8Array, equalTwice: boolean) =>
    judgeBackup({
      bytes,
      wanted: region.length,
      erasedByte: component.memory.erasedByte,
      equalTwice,
      identity: bench.identify([{ address: region.address, bytes }]),
      familyId: family.id,
    }).map(({ says, because }) => `${says} ${because}`)
  const empty = new Uint8Array(region.length).fill(0xff)
  return {
    bench,
    told: judged(empty, true),
    acts: {
      refuse: () => judged(empty, true),
      entry: async () => {
        bench.unit.enter?.()
        return (await bench.hear()).says
      },
      'read-twice': async () => {
        const { loader } = await bench.joined()
        const range = { address: region.address, length: region.length }
        read = [await loader.read!(range, () => {}), await loader.read!(range, () => {})]
        return read.map((bytes) => `${groupedNumber(bytes.length)} bytes, ${new Set(bytes).size} values.`)
      },
      compare: () => {
        const [first, second] = read
        return first && second ? judged(first, equalBytes(first, second)) : ['Nothing was read yet.']
      },
      write: async () => (await bench.write()).says,
      'go-on': nothing,
      rename: () => judged(empty, true),
    },
  }
}

/** What fit says of an image for a unit that runs these versions: the heaviest reason. */
function fitWords(
  bench: DrillBench,
  memory: MemoryMap,
  versions: Record<string, string>,
  answers: Record<string, string> = {},
): string[] {
  const { family, component, facts } = bench
  const { findings } = judgeFit({
    family,
    component,
    unit: { ...facts, versions },
    image: { name: 'the file', identity: bench.identify(memory), segments: rangesOf(memory) },
    answers,
  })
  const against = findings.filter(({ level }) => level === 'stop' || level === 'hold')
  return against.slice(0, 2).map(({ says, because }) => `${says} ${because}`)
}

/** How each fault drill is set up, by its id (core/entry/fault-drills.ts). */
export const drillPlays: Record<string, () => Promise<DrillPlay>> = {
  'cut-at-60': cutAt60,
  'swapped-pair': swappedPair,
  sag,
  'second-unit': secondUnit,
  'wrong-variant': wrongVariant,
  'missed-window': missedWindow,
  'bad-backup': badBackup,
}
