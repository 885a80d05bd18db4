import { componentOf, drivenLink } from '@bench-wake/core/family'
import { identifyImage, readIntelHex } from '@bench-wake/core/image'
import { virtualClock, type Release } from '@bench-wake/core/kernel'
import { scpiMeter } from '@bench-wake/core/link'
import { demoFirmware, demoImages, fogSignalFamily as family } from '@bench-wake/demo'
import { agedBattery, fogSignal, type FogSignalForm } from '@bench-wake/testing/fog-signal'
import { asciiBytes } from '../kernel'
import {
  carryOut,
  foldWake,
  loadsOf,
  planRun,
  wakeWriter,
  type Journal,
  type RunState,
  type WakeEvent,
} from '.'
import { demoHexOf } from '@bench-wake/demo'

export const turn = () => new Promise<void>((done) => setImmediate(done))
export const image248 = demoImages[0]!
const old = demoImages[1]!

/** Flash of a fog-signal controller that runs 2.41. */
export function flashOf241(): Uint8Array {
  const flash = new Uint8Array(0x40000).fill(0xff)
  flash.set(demoFirmware(old.image))
  return flash
}

export interface Rehearsal {
  flash?: Uint8Array
  inBootloader?: boolean
  faults?: FogSignalForm['faults']
  supply?: FogSignalForm['supply']
  hardware?: string
  serial?: string
  image?: (typeof demoImages)[number]
  releases?: Release[]
  journal?: Journal
  abandonAtByte?: number
  halt?: { raised: boolean }
  withMeter?: boolean
  /** What the person does at the power cycle; by default they do it. */
  obedient?: boolean
  /** Answers by question; `done` where nothing is said. */
  says?: (prompt: string) => string | undefined
}

/** A whole run on a stand-in in virtual time: the wake it leaves, the state it folds to, the unit's flash after. */
export async function rehearse(form: Rehearsal = {}) {
  const clock = virtualClock(turn, Date.UTC(2026, 10, 24, 8))
  const flash = form.flash ?? flashOf241()
  const unit = fogSignal({
    id: 'fog-07',
    name: 'Fog signal 07',
    family,
    hardware: form.hardware ?? '3.1',
    serial: form.serial ?? 'FS3-00417',
    state: { flash, usedAh: 0, inBootloader: form.inBootloader ?? false },
    supply: form.supply ?? agedBattery,
    ...(form.faults ? { faults: form.faults } : {}),
  })
  const { image, name } = form.image ?? image248
  const { memory } = readIntelHex(asciiBytes(demoHexOf(image)))
  const component = componentOf(family)
  const link = drivenLink(family)!
  const { channel, meter } = unit.connect(clock)
  if (form.withMeter !== false) {
    await meter!.open({ baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 })
  }
  const events: WakeEvent[] = []
  const abandon = { raised: false }
  const journal: Journal = form.journal ?? {
    async append(event) {
      events.push(event)
      if (
        form.abandonAtByte !== undefined &&
        event.body.type === 'progress' &&
        event.body.unit === 'bytes' &&
        event.body.done >= form.abandonAtByte
      ) {
        abandon.raised = true
      }
    },
  }
  const wake = wakeWriter(journal, clock)
  const plan = planRun(family, component, link, loadsOf(component, memory))
  await wake.record({
    type: 'run.opened',
    runId: 'run-1',
    job: { id: 'job-1', reason: 'test' },
    unit: { id: 'fog-07', name: 'Fog signal 07', place: 'Skerrow Point', serial: 'FS3-00417' },
    family: { id: family.id, revision: family.revision, name: family.name },
    component: { id: component.id, name: component.name },
    image: { id: 'i', name, sha256: '0', version: image.version, bytes: image.length },
    port: { id: 'p', name: 'stand-in', standIn: true },
    speed: 0,
    floorVolts: family.power.floorVolts,
    releases: form.releases ?? [],
    plan,
  })
  const outcome = await carryOut(
    plan,
    {
      family,
      component,
      link,
      unit: { id: 'fog-07', serial: 'FS3-00417' },
      image: { name, memory, identity: identifyImage(memory, [family]) },
      releases: form.releases ?? [],
    },
    {
      channel,
      ...(form.withMeter === false ? {} : { meter: scpiMeter(meter!) }),
      clock,
      wake,
      answers: {
        async wait(prompt) {
          if (prompt === 'power-cycle' && form.obedient !== false) unit.powerCycle()
          return form.says?.(prompt) ?? 'done'
        },
      },
      abandon,
      halt: form.halt ?? { raised: false },
    },
  )
  return {
    outcome,
    events,
    plan,
    flash,
    unit,
    clock,
    state: foldWake(events) as RunState,
    bytes: demoFirmware(image),
  }
}
