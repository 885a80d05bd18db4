/* eslint-disable @typescript-eslint/no-explicit-any -- old documents have no type any more */
import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { checkFamily, drivenLink, readFamily, type DriveOf } from '..'
import { inTodaysForm } from '.'

/* The ten profiles as they were written in format version 1, kept as they are. */
const folder = new URL('.', import.meta.url)
const names = readdirSync(folder).filter((name) => name.endsWith('.json'))
const old = (name: string) => JSON.parse(readFileSync(new URL(name, folder), 'utf8')) as Record<string, any>

describe('a profile of format version 1', () => {
  it('there are ten of them, and each is of version 1', () => {
    expect(names).toHaveLength(10)
    for (const name of names) expect(old(name)['formatVersion']).toBe(1)
  })
  it.each(names)('%s is read today, and nothing that it says is lost', (name) => {
    const document = old(name)
    const before = structuredClone(document)
    expect(checkFamily(document).faults).toEqual([])
    // What was handed in stays as it was: a stored document is not changed by reading it.
    expect(document).toEqual(before)
    const family = readFamily(document)
    expect(family.formatVersion).toBe(2)
    const { updates } = document
    expect(family.updates.path).toBe(updates.hops === 'house' ? 'workshop' : updates.hops)
    expect(family.updates.mandatoryVersions).toEqual(updates.stones)
    expect(family.postUpdateTasks).toEqual(document['aftercare'])
    expect(family.chipReplacement).toEqual(document['swap'])
    expect(family.links.map(({ id }) => id)).toEqual(document['links'].map(({ id }: any) => id))
    for (const [index, link] of document['links'].entries())
      expect(family.links[index]!.line ?? null).toEqual(link.line ?? (link.loader ? link.settings : null))
  })
  it('its console is steps now, word for word', () => {
    const family = readFamily(old('mains-relay.json'))
    const link = drivenLink(family, 'header')!
    const drive = link.drive as DriveOf<'script'>
    const { loader, console: words } = old('mains-relay.json')['links'][0]
    expect(drive.slowerSpeeds).toEqual(loader.speeds)
    expect(drive.resumes).toBe(true)
    const sent = JSON.stringify(drive.operations)
    for (const exchange of ['identify', 'erase', 'write', 'checksum', 'leave'])
      expect(sent).toContain(JSON.stringify(`${loader[exchange].send}\r`))
    expect(sent).toContain(JSON.stringify(`${words.identify.send}\r`))
    expect(drive.operations.attach!.steps[0]).toMatchObject({ until: [{ line: loader.ready }] })
    expect(drive.operations.write!.steps.find(({ do: does }) => does === 'transfer')).toEqual({
      do: 'transfer',
      by: 'xmodem-1k',
      padByte: 255,
    })
  })
  it('blocks of 128 bytes, and a batch, stay what they were', () => {
    const small = old('fog-signal.json')
    small['links'][0].loader.blockBytes = 128
    const by = (document: unknown) => {
      const drive = drivenLink(readFamily(document))!.drive as DriveOf<'script'>
      return drive.operations.write!.steps.find(({ do: does }) => does === 'transfer')
    }
    expect(by(small)).toMatchObject({ by: 'xmodem' })
    expect(by(old('marine-radio.json'))).toMatchObject({ by: 'ymodem', fileName: '{component}.bin' })
  })
  it('a secret alone is the key that it stood for: turned left by seven bits, and mixed', () => {
    const document = old('launch-motor.json')
    const drive = document['links'].find(({ drive: own }: any) => own?.key).drive
    delete drive.key
    drive.secret = '0x1B2C3D4E'
    const link = readFamily(document).links.find(({ drive: own }) => own && 'key' in own)!
    expect((link.drive as DriveOf<'uds'>).key).toEqual([
      { do: 'rotate', left: 7 },
      { do: 'xor', by: 0x1b2c3d4e },
    ])
  })
  it('a fault in it is named by the field that it has today', () => {
    const document = old('fog-signal.json')
    document['updates'].hops = 'sideways'
    expect(checkFamily(document).faults.map(({ at }) => at)).toEqual(['updates.path'])
    const broken = old('fog-signal.json')
    delete broken['links'][0].loader.erase
    // A link that is no console and no script is not guessed at.
    expect(checkFamily(broken).faults.some(({ at }) => at.startsWith('links.0'))).toBe(true)
  })
  it.each([null, 7, 'x', [], { formatVersion: 3 }, { formatVersion: 2, links: 4 }])(
    'what is none comes back as it is: %j',
    (value) => {
      expect(inTodaysForm(value)).toBe(value)
      expect(checkFamily(value).faults.length).toBeGreaterThan(0)
    },
  )
  it.each([
    { formatVersion: 1 },
    { formatVersion: 1, links: [null, 3, { kind: 'serial' }], hardware: [], updates: 'no', components: [{}] },
    { formatVersion: 1, links: [{ kind: 'serial', settings: {}, console: {}, loader: {} }], entry: 5 },
  ])('a broken one is refused by the schema and never thrown over: %j', (value) => {
    expect(checkFamily(value).faults.length).toBeGreaterThan(0)
  })
})
