import {
  applicationRegions,
  componentOf,
  drivenLink,
  type DrivenLink,
  type DriveOf,
  type Family,
  type FamilyLink,
  type Speech,
} from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import {
  controllerUnit,
  frameDisturbances,
  loggerUnit,
  memoryBytes,
  chipUnit,
  sixLineUnit,
  receiverUnit,
  rs485Unit,
  scriptedUnit,
  seeded,
  serialDisturbances,
  usbDisturbances,
  type DisturbanceForm,
  type Disturbances,
  type StandIn,
  type UnitForm,
} from '@bench-wake/standins'
import { equalBytes, isProblem, virtualClock } from '../kernel'
import { isEqual } from './check'
import { openLink } from './drive'

type Over<S extends Speech> = FamilyLink & { drive: DriveOf<S> }

/** A client with its stand-in as opponent. */
export const opponents = [
  ['console and XMODEM', 'mains-relay', 'header'],
  ['console and YMODEM', 'marine-radio', 'cable'],
  ['Modbus file records', 'buoy-battery', 'bus'],
  ['services on the vehicle bus', 'launch-motor', 'bus'],
  ['services on the single wire', 'launch-motor', 'line'],
  ['USB update mode', 'tide-logger', 'usb'],
  ['debug port', 'beacon-receiver', 'pads'],
] as const

const tooLong = Symbol('hang')
/** Longest that a whole write may take in virtual time before it counts as a hang, ms. */
const hangMs = 12 * 3_600_000

export interface Outcome {
  made: number
  /** Proved, or broken off with a Problem of this kind. */
  ended: 'proved' | 'refused' | (string & {})
}

/**
 * One disturbed write from attach to verify.
 * @throws Error when it hangs, throws anything but a Problem, or claims a success that is none.
 */
export async function disturbedWrite(
  [name, familyId, linkId]: (typeof opponents)[number],
  form: DisturbanceForm,
  turn: () => Promise<void>,
): Promise<Outcome> {
  const family = demoFamily(familyId)
  return disturbedWriteOf(name, family, drivenLink(family, linkId)!, form, turn)
}

/** The same on a unit of any family. @throws as `disturbedWrite`. */
export async function disturbedWriteOf(
  name: string,
  family: Family,
  link: DrivenLink,
  form: DisturbanceForm,
  turn: () => Promise<void>,
): Promise<Outcome> {
  const clock = virtualClock(turn)
  const component = componentOf(family)
  const state = {
    flash: new Uint8Array(memoryBytes(family)).fill(0xff),
    usedAh: 0,
    inBootloader: true,
    lines: {},
  }
  const unitForm: UnitForm = { id: 'x', name: 'unit', family, hardware: '2', serial: 'X-1', state }
  const serial = serialDisturbances(form)
  const frames = frameDisturbances(form)
  let unit: StandIn
  let made: Disturbances = serial
  switch (link.drive.speaks) {
    case 'script':
      unit = scriptedUnit({ ...unitForm, link: link as Over<'script'>, faults: { disturb: serial.disturb } })
      break
    case 'modbus':
      unit = rs485Unit({
        ...unitForm,
        link: link as Over<'modbus'>,
        neighbours: [],
        faults: { disturb: serial.disturb },
      })
      break
    case 'uds':
      unit = controllerUnit({ ...unitForm, link: link as Over<'uds'>, disturbFrame: frames.disturb })
      made = frames
      break
    case 'kwp':
      unit = controllerUnit({ ...unitForm, link: link as Over<'kwp'>, faults: { disturb: serial.disturb } })
      break
    case 'dfu':
      unit = loggerUnit({ ...unitForm, link: link as Over<'dfu'> })
      break
    case 'debug':
      unit = receiverUnit({ ...unitForm, link: link as Over<'debug'> })
      break
    case 'in-system':
      unit = sixLineUnit({ ...unitForm, link: link as Over<'in-system'> })
      break
    case 'spi-flash':
      unit = chipUnit({ ...unitForm, link: link as Over<'spi-flash'> })
      break
  }
  let { channel } = unit.connect(clock)
  if (channel.kind === 'usb') {
    const disturbed = usbDisturbances(channel.port, clock, form)
    made = disturbed
    channel = { kind: 'usb', port: disturbed.port }
  }
  const driver = openLink(channel, clock, family, link, component)
  const region = applicationRegions(component)[0]!
  const random = seeded(form.seed ^ 0x5eed)
  const image = Uint8Array.from({ length: 2000 + Math.floor(random() * 1500) }, () =>
    Math.floor(random() * 256),
  )
  const act = async (): Promise<boolean> => {
    await driver.open()
    await driver.loader.attach()
    await driver.loader.erase({ address: region.address, length: image.length }, () => {})
    await driver.loader.write(region.address, image, () => {}, { raised: false })
    return isEqual(await driver.loader.verify(region.address, image))
  }
  const result = await Promise.race([
    act().catch((error: unknown) => error),
    clock.sleep(hangMs).then(() => tooLong),
  ])
  await driver.close().catch(() => {})
  const where = `${name}, seed ${form.seed}`
  if (result === tooLong) throw new Error(`${where}: hangs`)
  if (result === true) {
    if (!equalBytes(state.flash.subarray(0, image.length), image)) {
      throw new Error(`${where}: proved, and the memory is not the image`)
    }
    return { made: made.made, ended: 'proved' }
  }
  if (result === false) return { made: made.made, ended: 'refused' }
  if (!isProblem(result)) throw new Error(`${where}: ${String(result)}`, { cause: result })
  return { made: made.made, ended: result.facts.kind }
}
