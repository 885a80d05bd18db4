import { pageLine, type Component, type DriveOf, type Family } from '../../family'
import { hexText, type Clock } from '../../kernel'
import { inSystemLoader } from './loader'
import { portHertz } from './programmer'
import { openSpiPort } from '../spi'
import { dapAdapter } from '../swd'
import type { UsbPort } from '../usb'
import { adapterDriver } from '../drive/adapter-driver'
import { shownBytes } from '../drive/shown'
import type { LinkDriver } from '../drive/link-driver'

/** Usual page of such a processor (from memory). */
const usualPageBytes = 64

/** A processor on its six-line port: it says its signature and its fuses, and its memory says the rest. */
export function inSystemDriver(
  port: UsbPort,
  clock: Clock,
  family: Family,
  drive: DriveOf<'in-system'>,
  component: Component,
): LinkDriver {
  const regions = component.memory.regions.filter(({ use }) => use === 'application')
  const loader = inSystemLoader(
    port.name,
    async () => openSpiPort(await dapAdapter(port), { hertz: portHertz(drive), select: 'none' }),
    clock,
    {
      drive,
      regions,
      others: component.memory.regions.filter(({ use }) => use !== 'application').map(({ name }) => name),
      pageBytes: regions[0]!.pageBytes ?? usualPageBytes,
      erasedByte: component.memory.erasedByte,
    },
  )
  const page = async () => {
    const fuses = await loader.fuses()
    const lines: string[] = []
    const locked = await loader.protected!()
    for (const { field, tells, address, length, as = 'ascii' } of drive.page) {
      const fuse = tells?.startsWith('fuse.')
        ? fuses.find((each) => `fuse.${each.fuse.id}` === tells)
        : undefined
      const value =
        tells === 'signature'
          ? await loader.signature()
          : fuse
            ? hexText(fuse.value)
            : // What is kept from being read says nothing of itself.
              locked || address === undefined
              ? null
              : shownBytes(await loader.peek(address, length!), as)
      if (value !== null) lines.push(...pageLine(family, field, value))
    }
    return lines
  }
  return {
    ...adapterDriver(port, loader, page),
    fuses: {
      read: () => loader.fuses(),
      set: (id, value) => loader.setFuse(id, value),
    },
  }
}
