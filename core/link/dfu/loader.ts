import { firstDifference, isProblem, Problem, type Clock } from '../../kernel'
import { readBackVerification } from '../check'
import { writeAbandoned, type Loader } from '../loader'
import { interfacesOf, stringOf, type ControlSetup, type UsbPort } from '../usb'
import { dfuInterface, readStatus, type DfuFunction, type DfuInterface, type DfuStatus } from './messages'
import { dfuRequest, dfuStatusWords } from './states'

/** Which alternate setting is written: by its number, or by how its string begins. */
export type DfuMemory = { alternate: number } | { named: string }

/** How long a device may take to come back as another configuration of itself, ms. */
const comesBackMs = 10_000
/** A device that asks for more than this is taken to be stuck, ms. */
const maxPollMs = 60_000

/**
 * A USB device's update mode (DFU 1.1). It has no addresses: a file is one image from its first byte to its last, and
 * erasing is the device's own affair while it asks for time.
 * @param page what the device says of itself, line by line.
 * @param memory which of its alternate settings is meant; it may have only one where nothing is said.
 */
export function dfuLoader(
  port: UsbPort,
  clock: Clock,
  page: () => Promise<string[]>,
  memory?: DfuMemory,
): Loader {
  let form: DfuFunction | undefined
  let at = 0

  const setup = (request: number, value = 0): ControlSetup => ({
    type: 'class',
    recipient: 'interface',
    request,
    value,
    index: at,
  })
  const status = async (): Promise<DfuStatus> => {
    const read = readStatus(await port.controlIn(setup(dfuRequest.getStatus), 6))
    if (read) return read
    throw new Problem({
      kind: 'dfu-status',
      thing: port.name,
      says: 'the device’s status makes no sense',
      remedy: 'Unplug it, count to five, enter its update mode again.',
    })
  }
  /** Asks until the device is done with what it does, and waits as long as it says each time. */
  const settled = async (offset: number): Promise<DfuStatus> => {
    for (let waited = 0; ;) {
      const now = await status()
      if (now.state === 'dfuERROR') throw failed(port.name, offset, now.status)
      const busy = now.state === 'dfuDNBUSY' || now.state === 'dfuDNLOAD-SYNC'
      const manifests = now.state === 'dfuMANIFEST' || now.state === 'dfuMANIFEST-SYNC'
      if (now.state === 'dfuMANIFEST' && !form!.manifestationTolerant) {
        // It no longer answers from here on; it waits for the reset (clause 7.2).
        await clock.sleep(now.pollMs)
        return { ...now, state: 'dfuMANIFEST-WAIT-RESET' }
      }
      if (!busy && !manifests) return now
      waited += Math.max(1, now.pollMs)
      if (waited > maxPollMs) throw failed(port.name, offset, 14)
      await clock.sleep(Math.max(1, now.pollMs))
    }
  }
  const find = async () => dfuInterface(await interfacesOf(port))
  /** The alternate setting that is meant. @throws Problem `dfu-alternate` where there is none, or nobody said which. */
  const settingOf = async ({ alternates, running }: DfuInterface): Promise<number> => {
    // While its firmware runs it only detaches.
    if (running || (!memory && alternates.length === 1)) return alternates[0]!.alternate
    const texts: string[] = []
    for (const { name } of alternates) texts.push((await stringOf(port, name)) ?? '')
    const meant = alternates.filter(({ alternate }, index) =>
      memory && 'named' in memory
        ? texts[index] === memory.named ||
          (!texts.includes(memory.named) && texts[index]!.startsWith(memory.named))
        : memory?.alternate === alternate,
    )
    if (meant.length === 1) return meant[0]!.alternate
    throw new Problem({
      kind: 'dfu-alternate',
      thing: port.name,
      says:
        !memory || meant.length > 1
          ? 'the device has several such memories'
          : 'the device has no such memory',
      ...(memory
        ? { expected: 'alternate' in memory ? `alternate setting ${memory.alternate}` : `“${memory.named}”` }
        : {}),
      found: alternates
        .map(({ alternate }, index) => (texts[index] ? `${alternate} “${texts[index]}”` : `${alternate}`))
        .join(', '),
      remedy: 'Say in the profile, under `alternates`, which of them each component is written to.',
    })
  }
  const claim = async (found: DfuInterface) => {
    const setting = await settingOf(found)
    at = found.number
    form = found.function
    const lacks = !form.canDownload
      ? 'it takes no downloads'
      : form.transferBytes === 0
        ? 'blocks of 0 bytes'
        : null
    if (lacks !== null && !found.running)
      throw new Problem({
        kind: 'dfu-function',
        thing: port.name,
        says: 'the device’s update mode takes no firmware',
        found: lacks,
        remedy: 'The unit is unchanged. Enter the update mode that its manual names for writing.',
      })
    await port.claimInterface(found.number, setting)
  }
  /** Into dfuIDLE from wherever an earlier attempt left it. */
  const toIdle = async () => {
    const now = await status()
    if (now.state === 'dfuERROR') await port.controlOut(setup(dfuRequest.clearStatus))
    else if (now.state !== 'dfuIDLE') await port.controlOut(setup(dfuRequest.abort))
  }
  const readUp = async (length: number, report: (done: number) => Promise<void> | void) => {
    const bytes = new Uint8Array(length)
    let done = 0
    for (let block = 0; done < length; block++) {
      const piece = await port.controlIn(setup(dfuRequest.upload, block & 0xffff), form!.transferBytes)
      bytes.set(piece.subarray(0, length - done), done)
      done += Math.min(piece.length, length - done)
      await report(done)
      // A short block is the last one (clause 6.2).
      if (piece.length < form!.transferBytes) break
    }
    await toIdle()
    return bytes.subarray(0, done)
  }

  return {
    get can() {
      const canUpload = form?.canUpload ?? true
      return {
        read: canUpload,
        erase: false,
        verify: canUpload ? ('read-back' as const) : ('version-only' as const),
        resume: false,
      }
    },
    async attach() {
      let found = await find()
      if (found?.running) {
        await claim(found)
        await port.controlOut(setup(dfuRequest.detach, found.function.detachMs))
        // A device that cannot detach by itself waits for the reset of its bus.
        if (!found.function.willDetach) await port.reset()
        await port.reopen(comesBackMs)
        found = await find()
      }
      if (!found || found.running) {
        throw new Problem({
          kind: 'no-bootloader',
          thing: port.name,
          says: 'the device is not in its update mode',
          remedy:
            'The unit is unchanged. Unplug it, hold its button, plug it in, let go when the lamp says so.',
        })
      }
      await claim(found)
      await toIdle()
    },
    identify: page,
    async read({ length }, report) {
      const bytes = await readUp(length, (done) => report({ done, total: length, unit: 'bytes', retries: 0 }))
      if (bytes.length === length) return bytes
      throw new Problem({
        kind: 'dfu-short',
        thing: port.name,
        place: { offset: bytes.length },
        says: 'the device gave fewer bytes than its memory holds',
        expected: `${length} bytes`,
        found: `${bytes.length} bytes`,
        remedy: 'Read again; a device that keeps doing so gives no backup.',
      })
    },
    async erase() {
      // The device erases by itself, block by block, while it asks for time.
    },
    async write(_address, bytes, report, abandon) {
      const { transferBytes } = form!
      await toIdle()
      let block = 0
      for (let done = 0; done < bytes.length; block++) {
        if (abandon.raised) {
          await port.controlOut(setup(dfuRequest.abort))
          throw writeAbandoned(
            port.name,
            done,
            'the device holds a part of the firmware and stays in its update mode',
          )
        }
        const piece = bytes.subarray(done, done + transferBytes)
        try {
          await port.controlOut(setup(dfuRequest.download, block & 0xffff), piece)
        } catch (error) {
          if (!isProblem(error, 'usb-stall')) throw error
          throw failed(port.name, done, (await status()).status)
        }
        const after = await settled(done)
        if (after.state !== 'dfuDNLOAD-IDLE') throw failed(port.name, done, 15)
        done += piece.length
        await report({ done, total: bytes.length, unit: 'bytes', retries: 0 })
      }
      try {
        await port.controlOut(setup(dfuRequest.download, block & 0xffff))
      } catch (error) {
        if (!isProblem(error, 'usb-stall')) throw error
        throw failed(port.name, bytes.length, (await status()).status)
      }
      const end = await settled(bytes.length)
      // One that still waits for bytes, or is elsewhere, did not take the file for whole.
      if (end.state !== 'dfuIDLE' && end.state !== 'dfuMANIFEST-WAIT-RESET')
        throw failed(port.name, bytes.length, 9)
    },
    async verify(_address, bytes) {
      // Without upload, or with a device that restarts by itself, nothing was compared and nothing is called equal.
      if (!form!.canUpload || !form!.manifestationTolerant) {
        return {
          outcome: 'version-only',
          expected: 'the device accepts the file and starts it',
          found: 'accepted; the version is read after the restart',
        }
      }
      const back = await readUp(bytes.length, () => {})
      return readBackVerification(firstDifference(bytes, back), bytes, (offset) => `byte ${offset}`)
    },
    async startApplication() {
      await port.reset()
      await port.reopen(comesBackMs)
    },
  }
}

function failed(thing: string, offset: number, status: number): Problem {
  return new Problem({
    kind: 'dfu-error',
    thing,
    place: { offset },
    says: 'the device broke the update off',
    found: dfuStatusWords[status] ?? `status ${status}`,
    remedy: 'It stays in its update mode. Write again from the beginning.',
  })
}
