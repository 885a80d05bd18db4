import { demoFamilies, taughtFamilies } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { checkFamily } from '.'

/* eslint-disable @typescript-eslint/no-explicit-any -- documents are bent by member, as a person writing one would */
const faultsOf = (id: string, bend: (document: any) => void) => {
  const document = structuredClone([...demoFamilies, ...taughtFamilies].find((each) => each.id === id)) as any
  bend(document)
  return checkFamily(document).faults.map(({ at, says }) => `${at}: ${says}`)
}
const clip = (document: any) => document.links[1].drive
const six = (document: any) => document.links[0].drive
const card = (document: any) => document.links[0].medium

describe('a chip on a clip, in a profile', () => {
  it.each<[string, (document: any) => void, RegExp]>([
    ['a line told, with half a place', (d) => (clip(d).page[0].address = '0x0'), /page\.0: Say either/],
    ['a line with half a place', (d) => delete clip(d).page[1].length, /page\.1: Say either/],
    [
      'a line neither told nor placed',
      (d) => delete clip(d).page[0].tells,
      /links\.1\.drive\.page\.0: Say either/,
    ],
    [
      'a line told, with a place',
      (d) => Object.assign(clip(d).page[0], { address: '0x0', length: 4 }),
      /links\.1\.drive\.page\.0: Say either/,
    ],
    [
      'a block that is no power of two',
      (d) => (clip(d).erases[0].bytes = 5000),
      /erases\.0\.bytes: A block is/,
    ],
    ['an identity that is none', (d) => (clip(d).identities = ['5D40']), /identities\.0: Write six/],
    ['another kind of link', (d) => (d.links[1].kind = 'usb'), /speaks: "spi-flash" goes over/],
    [
      'an entry for a link that is not there',
      (d) => (d.entry[1].links = ['wire']),
      /entry\.1\.links\.0: There is no/,
    ],
  ])('%s', (_, bend, fault) => expect(faultsOf('signal-desk', bend).join('\n')).toMatch(fault))
})

describe('six lines, in a profile', () => {
  it.each<[string, (document: any) => void, RegExp]>([
    [
      'an instruction that is none',
      (d) => (six(d).instructions.read = '28 r r'),
      /instructions\.read: One byte/,
    ],
    [
      'a question whether it is busy that is none',
      (d) => (six(d).instructions.busy.ask = 'F4 zz r'),
      /busy\.ask: "zz"/,
    ],
    [
      'words without their high byte',
      (d) => delete six(d).instructions.readHigh,
      /instructions: Where addresses/,
    ],
    ['a fuse read by nothing', (d) => (six(d).fuses[0].read = 'r'), /fuses\.0\.read: Something goes out/],
    ['a fuse written by nothing', (d) => (six(d).fuses[0].write = 'xy d'), /fuses\.0\.write: "xy"/],
    ['a bit named twice', (d) => (six(d).fuses[0].bits[1].bit = 7), /bits\.1\.bit: Bit 7 is named twice/],
    ['two fuses of one name', (d) => (six(d).fuses[1].id = 'clock'), /fuses\.1\.id: "clock" is used twice/],
    [
      'a line of a fuse that is not there',
      (d) => (six(d).page[2].tells = 'fuse.none'),
      /There is no fuse "none"/,
    ],
    ['a line that tells nothing it knows', (d) => (six(d).page[0].tells = 'colour'), /page\.0\.tells/],
    ['a wanted value that is none', (d) => (six(d).fuses[0].wanted = 'E4'), /wanted: Write it as/],
    ['another kind of link', (d) => (d.links[0].kind = 'debug'), /speaks: "in-system" goes over/],
  ])('%s', (_, bend, fault) => expect(faultsOf('relay-driver', bend).join('\n')).toMatch(fault))
})

describe('a card, in a profile', () => {
  it.each<[string, (document: any) => void, RegExp]>([
    ['a file without content', (d) => delete card(d).files[0].text, /medium\.files\.0: Say either/],
    [
      'a file with two contents',
      (d) => (card(d).files[0].component = 'display'),
      /medium\.files\.0: Say either/,
    ],
    [
      'a long name where only short ones are read',
      (d) => (card(d).files[1].name = 'helm.bin'),
      /files\.1\.name: A short/,
    ],
    [
      'a component that is not there',
      (d) => (card(d).files[1].component = 'hull'),
      /There is no component "hull"/,
    ],
    ['a medium without its files', (d) => delete d.links[0].medium, /links\.0\.medium: A medium needs/],
  ])('%s', (_, bend, fault) => expect(faultsOf('helm-display', bend).join('\n')).toMatch(fault))
  it('may have long names where the unit reads them', () => {
    expect(
      faultsOf('helm-display', (d) => {
        delete card(d).shortNames
        card(d).files[1].name = 'helm display.bin'
      }),
    ).toEqual([])
  })
})
