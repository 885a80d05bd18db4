import {
  beginEntry,
  judgeEntry,
  missedAct,
  offText,
  type EntryState,
  type FaultDrill,
  type FaultKind,
} from '@bench-wake/core/entry'
import { applicationRegions, type Family } from '@bench-wake/core/family'
import { judgeFit } from '@bench-wake/core/fit'
import { rangesOf, type MemoryMap } from '@bench-wake/core/image'
import { equalBytes, groupedNumber, sha256Hex, voltsText, type Verdict } from '@bench-wake/core/kernel'
import { scanBus } from '@bench-wake/core/link'
import { judgeBackup } from '@bench-wake/core/proof'
import { chargerVoltsOf, chemistryFacts, judgeJobPower, type SupplySay } from '@bench-wake/core/ready'
import { planRun, stretchesOf } from '@bench-wake/core/run'
import { DrillBench, type DrillUnit } from './drill-bench'

/** A drill as it is played: what each move does to the bench, and what the bench then says. */
export interface DrillPlay {
  bench: DrillBench
  /** What stands at the beginning. */
  told: string[]
  acts: Record<string, () => Promise<string[]> | string[]>
}

/** Sets up the bench of one kind of drill. */
type SetUp = (family: Family, drill: FaultDrill, unit: DrillUnit) => Promise<DrillPlay>

const nothing = () => []

/** PRACTICE H7: the plug came out at six tenths. */
async function cutAt60(...of: Parameters<SetUp>): Promise<DrillPlay> {
  const bench = new DrillBench(...of)
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
            ? 'This unit can go on where it stands; the program asks it where that is.'
            : 'This unit cannot go on: a transfer begins at the first byte.',
        ]
      },
      older: () => {
        const own = bench.facts.versions[bench.component.id]
        if (own === undefined) return ['Nobody knows which version that was.']
        return fitWords(bench, bench.imageWith({ version: own }), bench.identify(bench.memory)?.version)
      },
    },
  }
}

/** PRACTICE F1: transmit on transmit. */
async function swappedPair(...of: Parameters<SetUp>): Promise<DrillPlay> {
  const bench = new DrillBench(...of)
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

/** By so much the hands miss a window, ms. */
const missedByMs = 600

/** A charger of a quarter of the capacity an hour, at the voltage that holds the battery; what it takes, where that is less. */
function chargerFor({ power }: Family): { amps: number; volts: number } {
  const { chemistry, cells, capacityAh } = power.supply!
  const volts = chargerVoltsOf({ source: { chemistry, cells } })!
  return {
    amps: Math.round(capacityAh * Math.min(0.25, chemistryFacts[chemistry].charging!.ampsPerAh)),
    volts,
  }
}

/** PRACTICE D1: the supply that would not last. */
async function sag(...of: Parameters<SetUp>): Promise<DrillPlay> {
  const bench = new DrillBench(...of)
  const { family, component, link, loads } = bench
  const stretches = stretchesOf(family.power, planRun(family, component, link, loads))
  const gateOf = (said: SupplySay) => judgeJobPower(family, said, stretches, null)?.gate
  /** Volts from the floor up, in steps of a meter’s last digit: the first at which the supply is judged better. */
  const firstBetterThan = (
    bad: Verdict[],
    shed: string[],
    charger: NonNullable<SupplySay['charger']> | null,
  ): number => {
    const { floorVolts } = family.power
    for (let volts = floorVolts; volts < 1.3 * floorVolts; volts += 0.01) {
      const gate = gateOf({ shed, charger, measured: { volts, shed, charger } })
      if (gate && !bad.includes(gate.verdict)) return volts
    }
    return floorVolts
  }
  const biggest = family.power.supply!.loads.toSorted((a, b) => b.amps - a.amps)[0]!
  const charger = chargerFor(family)
  let say: SupplySay = {
    measured: {
      volts: Math.max(family.power.floorVolts, firstBetterThan(['stop'], [], null) - 0.02),
      shed: [],
      charger: null,
    },
  }
  const judged = (): string[] => gateOf(say)?.findings.map(({ says }) => says) ?? []
  const tried = async (breaks?: Parameters<DrillBench['write']>[1]) => {
    bench.unit.enter?.()
    return (await bench.write(bench.memory, breaks)).says
  }
  return {
    bench,
    told: judged(),
    acts: {
      hold: judged,
      shed: () => {
        say = { ...say, shed: [biggest.id] }
        return judged()
      },
      charger: () => {
        say = { ...say, charger }
        return judged()
      },
      measure: () => {
        const shed = say.shed ?? []
        const volts = firstBetterThan(['stop', 'hold'], shed, say.charger ?? null) + 0.2
        say = { ...say, measured: { volts, shed, charger: say.charger ?? null } }
        return judged()
      },
      start: () => tried(),
      quick: async () => {
        const at = Math.floor(0.8 * bench.bytes)
        return tried({ at, by: () => bench.unit.powerCycle() })
      },
      engine: () => [`A starter draws far more than the ${biggest.amps} A that were taken off.`],
      floor: () => [`The profile says ${voltsText(family.power.floorVolts)}.`, ...judged()],
    },
  }
}

/** PRACTICE F4: two units hear one write. */
async function secondUnit(...of: Parameters<SetUp>): Promise<DrillPlay> {
  const bench = new DrillBench(...of)
  const { family } = bench
  const scanned = async (): Promise<string[]> => {
    const { from, to } = family.isolation!.scan!
    await bench.unjoin()
    const { channel } = bench.unit.connect(bench.clock)
    if (channel.kind !== 'serial') return []
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
        bench.unplugOthers()
        return []
      },
      ...(family.isolation?.switch ? { switch: nothing } : {}),
      scan: scanned,
      write: async () => {
        const { says } = await bench.write()
        return [...says, ...(await bench.prove())]
      },
      'other-address': scanned,
      slower: scanned,
    },
  }
}

/** PRACTICE B7: two variants of one version. */
async function wrongVariant(family: Family, drill: FaultDrill, unit: DrillUnit): Promise<DrillPlay> {
  const question = family.questions![0]!
  const [right, other] = question.answers
  const bench = new DrillBench(family, drill, unit, { variant: right!.id })
  const wrong = bench.imageWith({ variant: other!.id })
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
    told: [words(bench.memory), words(wrong)],
    acts: {
      ask: nothing,
      choose: () => [words(bench.memory)],
      check: () => [words(bench.memory)],
      write: async () => [...(await tried(bench.memory)), ...(await bench.prove())],
      any: () => fitWords(bench, wrong, undefined, { [question.id]: right!.id }),
      both: async () => {
        await tried(bench.memory)
        await tried(wrong)
        return [
          bench.holds(wrong) ? `In the unit now: ${other!.id}. The first is gone.` : 'It holds neither.',
        ]
      },
    },
  }
}

/** PRACTICE E7, E8: an act that came after its window. */
async function missedWindow(...of: Parameters<SetUp>): Promise<DrillPlay> {
  const bench = new DrillBench(...of)
  const { script, act: timed, within } = missedAct(bench.family)!
  const before = script.acts.slice(0, script.acts.indexOf(timed))
  const middleOf = ({ minMs, maxMs }: typeof within) => (minMs + maxMs) / 2
  const did = (state: EntryState, { act, what }: typeof timed, afterMs: number) =>
    judgeEntry(state, { at: state.lastAt + afterMs, type: 'did', act, what })
  /** A try up to the act that has its window. */
  const begun = (): EntryState =>
    before.reduce(
      (state, act) => did(state, act, act.within ? middleOf(act.within) : 500),
      beginEntry(script, bench.clock.now()),
    )
  let state = begun()
  const act = (afterMs: number) => {
    state = did(state, timed, afterMs)
    const { failure } = state
    return failure ? [[offText(failure), failure.why].filter(Boolean).join(': ')] : ['In time.']
  }
  return {
    bench,
    told: act(within.maxMs + missedByMs),
    acts: {
      off: () => {
        bench.unit.powerCycle()
        return []
      },
      wait: async () => {
        await bench.clock.sleep(10_000)
        return []
      },
      again: () => {
        state = begun()
        return ['The window is open.']
      },
      'in-time': () => act(middleOf(within)),
      sign: async () => {
        const isIn = script.signs.find(({ tells }) => tells === 'in')!
        state = judgeEntry(state, { at: state.lastAt + missedByMs, type: 'sign', id: isIn.id })
        bench.unit.enter?.()
        return (await bench.hear()).says
      },
      'write-on': () => ['It was too late: the unit still runs its firmware.'],
      late: () => act(within.maxMs + 5 * missedByMs),
    },
  }
}

/** PRACTICE G5: a backup that is none. */
async function badBackup(...of: Parameters<SetUp>): Promise<DrillPlay> {
  const bench = new DrillBench(...of)
  const { family, component } = bench
  // As far as the made-up firmware reaches: the rest of a region is erased, and nobody wants to wait for it here.
  const range = { address: applicationRegions(component)[0]!.address, length: bench.bytes }
  let read: Uint8Array[] = []
  const judged = (bytes: Uint8Array, equalTwice: boolean) =>
    judgeBackup({
      bytes,
      wanted: range.length,
      erasedByte: component.memory.erasedByte,
      equalTwice,
      identity: bench.identify([{ address: range.address, bytes }]),
      familyId: family.id,
      labelled: component.identity !== undefined || component.versionText !== undefined,
    }).map(({ says, because }) => `${says} ${because}`)
  const empty = new Uint8Array(range.length).fill(0xff)
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

/** What fit says of an image for the unit: the heaviest reasons. @param version that the unit runs, where another than its own. */
function fitWords(
  bench: DrillBench,
  memory: MemoryMap,
  version?: string | null,
  answers: Record<string, string> = {},
): string[] {
  const { family, component, facts } = bench
  const versions = version ? { ...facts.versions, [component.id]: version } : facts.versions
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

const setUps: Record<FaultKind, SetUp> = {
  'cut-at-60': cutAt60,
  'swapped-pair': swappedPair,
  sag,
  'second-unit': secondUnit,
  'wrong-variant': wrongVariant,
  'missed-window': missedWindow,
  'bad-backup': badBackup,
}

/** Sets up a fault drill's bench: a stand-in after this unit, with the fault on it. */
export const playDrill = (family: Family, drill: FaultDrill, unit: DrillUnit): Promise<DrillPlay> =>
  setUps[drill.kind](family, drill, unit)
