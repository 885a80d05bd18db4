import type { DriveOf, FamilyLink } from '@bench-wake/core/family'
import type { Clock } from '@bench-wake/core/kernel'
import {
  bytesShown,
  controllersOf,
  isoTp,
  type CanPort,
  type Edge,
  type Port,
  type Transport,
} from '@bench-wake/core/link'
import { canBus, type DisturbFrame } from './can-bus'
import { serveSlcan } from './protocols/can-adapter'
import { serveOlder } from './protocols/older-services-unit'
import { serveUds, type UdsUnit } from './protocols/services-unit'
import { kwpUnit } from './protocols/single-line-unit'
import { serialLine } from './line'
import type { LiveData, StandIn } from './stand-in'
import { unitMemory, type UnitForm, type UnitMemory } from './unit-memory'

/*
 * A motor controller with the services of ISO 14229-1: on the vehicle bus behind a CAN adapter, or, in the older
 * generation, on the single-wire line. Key off and on restarts it.
 */

type Drive = DriveOf<'uds'> | DriveOf<'kwp'>

export interface ControllerForm extends UnitForm {
  link: FamilyLink & { drive: Drive }
  disturbFrame?: DisturbFrame
}

/** A fault that writing leaves behind: the bus was silent meanwhile (common practice: told before, cleared behind). */
const quietBusFault = 'C10000'

export function controllerUnit(form: ControllerForm): StandIn {
  const { family, state, link } = form
  const { drive } = link
  /** What a controller holds: by its name, or whatever no other does. */
  const heldBy = (component?: string): string => {
    const others = drive.speaks === 'uds' ? (drive.controllers ?? []) : []
    return component ?? family.components.find(({ id }) => !others.some((each) => each.component === id))!.id
  }
  /** Begins anew on the line that is joined, if there is one. */
  let restart = () => {}

  /** What a hand at the pedal makes it read; set while it is logged. */
  let live: LiveData | null = null

  const servicesOf = (memory: UnitMemory, clock: Clock, drive: Drive, component?: string): UdsUnit => {
    const held = heldBy(component)
    const flash = memory.flash(held)
    const codes = () => {
      // The fault that a quiet bus leaves behind is the first one's.
      if (component !== undefined) return []
      const said = state.lines?.['faults'] ?? 'none'
      return said === 'none' ? [] : said.split(', ').map((text) => parseInt(text, 16))
    }
    return {
      read(identifier) {
        const now = live?.(identifier, clock.now())
        if (now) return now
        const item = drive.page.find(
          (each) => (each.identifier ?? each.local ?? each.identification) === identifier,
        )
        const value = item ? memory.line(item.field) : null
        if (!item || value === null) return null
        return bytesShown(value, item.as, item.as === 'ascii' ? value.length : 4)
      },
      write: () => false,
      key: drive.key ?? [],
      ...(drive.securityLevel === undefined ? {} : { level: drive.securityLevel }),
      routines: {
        erase: drive.eraseRoutine,
        check: drive.checkRoutine,
        well: [...(drive.before ?? []), ...(drive.after ?? [])].map(({ routine }) => routine),
      },
      ...(drive.sessions && { sessions: drive.sessions }),
      ...(drive.widths && { widths: drive.widths }),
      ...(drive.dataFormat === undefined ? {} : { dataFormat: drive.dataFormat }),
      isOpen: drive.securityLevel === undefined,
      ...(drive.fingerprint && { fingerprint: drive.fingerprint.identifier }),
      ...(drive.speaks === 'uds' &&
        drive.periodic && {
          periods: {
            ...(drive.periodic.slowMs && { slow: drive.periodic.slowMs }),
            ...(drive.periodic.mediumMs && { medium: drive.periodic.mediumMs }),
            ...(drive.periodic.fastMs && { fast: drive.periodic.fastMs }),
          },
        }),
      memory: { covers: (address, length) => memory.covers(held, address, length) },
      async erase(address, length) {
        state.inBootloader = true
        state.lines = { ...state.lines, faults: quietBusFault }
        await flash.erase(address, length, async () => {})
      },
      program: (address, data) => flash.program(address, data),
      readBack: (address, length) =>
        flash.bytes.slice(address - flash.address, address - flash.address + length),
      faults: () => codes().map((code) => ({ code, status: 0x2f })),
      clearFaults: () => void (state.lines = { ...state.lines, faults: 'none' }),
      reset: () => void (state.inBootloader = !memory.intact()),
      maxTransferBytes:
        drive.speaks === 'uds'
          ? 0x402
          : Math.min(drive.lengthIn === 'format' ? 0x3f : 0xff, (drive.transferBytes ?? 0xfe) + 1),
      ...('routineResults' in drive && { tellsResults: true }),
      ready: () => true,
    }
  }

  /** The bus with the controller on it, and the adapter's line. */
  const onBus = (clock: Clock, uds: DriveOf<'uds'>, memory: UnitMemory): Port => {
    let rate = uds.bitsPerSecond
    const bus = canBus(clock, () => rate, form.disturbFrame)
    const line = serialLine({ name: form.name, clock, unit: link.line! })
    const adapter = bus.join('adapter')
    let joined: ReturnType<typeof bus.join>[] = []
    /** It has been on this bus: with its power back it joins again. */
    let begun = false
    const { host } = line
    const leave = () => {
      for (const node of joined) node.leave()
      joined = []
    }
    form.power?.whenLost(leave)
    const begin = () => {
      leave()
      begun = true
      joined = controllersOf(uds).map(({ component, drive: own }) => {
        const node = bus.join(component ?? 'controller')
        serve(node, own, component)
        return node
      })
    }
    const serve = (unit: CanPort, own: DriveOf<'uds'>, component?: string) => {
      const { answerId, requestId, functionalId, extended, padding, addresses } = own
      const transport = isoTp(unit, clock, {
        sendId: answerId,
        receiveId: requestId,
        ...(functionalId === undefined ? {} : { alsoReceiveId: functionalId }),
        ...(extended === undefined ? {} : { extended }),
        ...(padding === undefined ? {} : { padding }),
        ...(addresses && {
          addresses: {
            sent: addresses.source,
            heard: addresses.target,
            alsoHeard: addresses.functional ?? addresses.target,
          },
        }),
      })
      const sent = own.periodic?.answerId
      const services = servicesOf(memory, clock, own, component)
      if (sent !== undefined)
        services.sendFrame = (data) => unit.send({ id: sent, ...(extended ? { extended } : {}), data })
      void serveUds(transport, clock, services).catch(() => {})
    }
    restart = () => {
      if (begun) begin()
    }
    return {
      ...host,
      get settings() {
        return host.settings
      },
      async open(settings) {
        await host.open(settings)
        void serveSlcan(line.unit, adapter, (chosen) => {
          rate = chosen
          leave()
          // At another rate than its own the controller hears nothing and acknowledges nothing.
          if (chosen !== uds.bitsPerSecond) return
          begin()
        }).catch(() => {})
      },
      async close() {
        leave()
        adapter.leave()
        line.interruptUnit()
        await host.close()
      },
    }
  }

  /** The single wire with the controller on it. */
  const onLine = (clock: Clock, kwp: DriveOf<'kwp'>, memory: UnitMemory): Port => {
    const edges: Edge[] = []
    let waiting: ((edge: Edge) => void) | undefined
    let low = false
    const line = serialLine({
      name: form.name,
      clock,
      unit: link.line!,
      echo: true,
      ...(form.faults?.disturb ? { disturb: form.faults.disturb } : {}),
      ...(form.power ? { powered: () => form.power!.on } : {}),
      onLines: ({ brk }) => {
        if (brk === undefined || brk === low) return
        low = brk
        const edge = { low, at: clock.now() }
        const take = waiting
        waiting = undefined
        if (take) take(edge)
        else edges.push(edge)
      },
    })
    const { host } = line
    return {
      ...host,
      get settings() {
        return host.settings
      },
      async open(settings) {
        await host.open(settings)
        const begin = () => {
          const transport: Transport = kwpUnit(line.unit, clock, {
            address: kwp.target,
            wakes: kwp.wake === 'fast' ? ['fast', 'five-baud'] : ['five-baud'],
            shape: { addresses: kwp.addressed ?? true, length: kwp.lengthIn ?? 'either' },
            ...(kwp.timing === 'standard' ? { keepsTimes: true } : {}),
            nextEdge: () => {
              const first = edges.shift()
              return first ? Promise.resolve(first) : new Promise((settle) => (waiting = settle))
            },
          })
          const serve = kwp.services === '14230' ? serveOlder : serveUds
          void serve(transport, clock, servicesOf(memory, clock, kwp)).catch(() => {})
        }
        begin()
        restart = () => {
          line.interruptUnit()
          begin()
        }
      },
      async close() {
        restart = () => {}
        line.interruptUnit()
        await host.close()
      },
    }
  }

  return {
    id: form.id,
    name: form.name,
    familyId: family.id,
    linkId: link.id,
    channel: 'serial',
    hasMeter: false,
    connect(clock) {
      const memory = unitMemory(form, clock, form.power)
      const port = drive.speaks === 'uds' ? onBus(clock, drive, memory) : onLine(clock, drive, memory)
      return { channel: { kind: 'serial', port } }
    },
    // Key off, key on: its sessions are gone, and what it was in the middle of.
    powerCycle: () => restart(),
    enter() {},
    drive: (moves) => void (live = moves),
    state: () => state,
  }
}
