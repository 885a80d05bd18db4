import type { Component, Family, FamilyLink } from '@bench-wake/core/family'
import type { Hop } from '@bench-wake/core/fit'
import { drivenLink } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import { Problem } from '@bench-wake/core/kernel'
import { describe, expect, it } from 'vitest'
import {
  cardFiles,
  postUpdateTasksLeft,
  postUpdateTasksOf,
  staysOf,
  stretchesOf,
  type PostUpdateTaskState,
  type RunState,
  type Step,
} from '.'
import { JournalLost } from './wake'
import { whyUnrecorded, writeUnrecorded } from './write-unrecorded'

/* What stands around a write: the files of a card, one stay in the bootloader or several, what is due behind it, and its record. */

describe('the files of a card', () => {
  const component = (id: string) => ({ id, memory: { erasedByte: 0xee } }) as unknown as Component
  const medium = (...files: object[]) => ({ name: 'memory card', files }) as never
  const memory = [
    { address: 0x100, bytes: Uint8Array.of(1, 2) },
    { address: 0x105, bytes: Uint8Array.of(3) },
  ]
  it('are plain bytes from the first to the last, gaps as erased memory, in the order of the profile', () => {
    const files = cardFiles(
      medium(
        { name: 'README.TXT', text: 'v1\r\n' },
        { name: 'B.BIN', component: 'b' },
        { name: 'A.BIN', component: 'a' },
        { name: 'EMPTY' },
      ),
      [
        { component: component('a'), memory },
        { component: component('b'), memory: [{ address: 8, bytes: Uint8Array.of(9) }] },
      ],
    )
    expect(files.map(({ name, bytes }) => [name, [...bytes]])).toEqual([
      ['README.TXT', [0x76, 0x31, 0x0d, 0x0a]],
      ['B.BIN', [9]],
      ['A.BIN', [1, 2, 0xee, 0xee, 0xee, 3]],
      ['EMPTY', []],
    ])
  })
  it('reach to the byte that lies last, whichever piece is told last', () => {
    const [file] = cardFiles(medium({ name: 'A.BIN', component: 'a' }), [
      {
        component: component('a'),
        memory: [
          { address: 0, bytes: new Uint8Array(8).fill(1) },
          { address: 2, bytes: Uint8Array.of(1) },
        ],
      },
    ])
    expect(file!.bytes).toHaveLength(8)
  })
  it('of which one has no image are none: the card names the file and the component', () => {
    const made = () =>
      cardFiles(medium({ name: 'B.BIN', component: 'b' }), [{ component: component('a'), memory }])
    expect(made).toThrow(Problem)
    expect(made).toThrow(/B\.BIN.*memory card needs an image of "b" too/)
    expect(made).toThrow(/Bring it to the shelf/)
  })
})

describe('writes in one stay in the bootloader', () => {
  const hop = (componentId: string, to?: string) => ({ componentId, ...(to && { to }) }) as unknown as Hop
  const names = { drive: { speaks: 'script', operations: {} } } as unknown as FamilyLink
  const davit = demoFamily('boat-davit')
  const named = drivenLink(davit)!
  const stays = (hops: Hop[], oneEntry: boolean | undefined = true, link: FamilyLink | null = named) =>
    staysOf({ updates: { oneEntry } } as never, link, hops).map((stay) =>
      stay.map(({ componentId, to }) => `${componentId} ${to ?? '-'}`).join(' + '),
    )
  it('are those of one release, each component once', () => {
    expect(stays([hop('a', '2'), hop('b', '2'), hop('c', '2')])).toEqual(['a 2 + b 2 + c 2'])
    expect(stays([hop('a', '2'), hop('b', '3')])).toEqual(['a 2', 'b 3'])
    expect(stays([hop('a', '2'), hop('a', '2')])).toEqual(['a 2', 'a 2'])
    // By way of a release between: two stays, each of both.
    expect(stays([hop('a', '2'), hop('b', '2'), hop('a', '3'), hop('b', '3')])).toEqual([
      'a 2 + b 2',
      'a 3 + b 3',
    ])
    expect(stays([hop('a', '2'), hop('b', '2'), hop('a', '2')])).toEqual(['a 2 + b 2', 'a 2'])
  })
  it('are one each where the release is not known, the family does not say so, or the link cannot', () => {
    expect(stays([hop('a'), hop('b')])).toEqual(['a -', 'b -'])
    for (const oneEntry of [undefined, false])
      expect(staysOf({ updates: { oneEntry } } as never, named, [hop('a', '2'), hop('b', '2')])).toHaveLength(
        2,
      )
    expect(stays([hop('a', '2'), hop('b', '2')], true, null)).toEqual(['a 2', 'b 2'])
    // A link whose words do not name the component would write both into the same one.
    expect(stays([hop('a', '2'), hop('b', '2')], true, names)).toEqual(['a 2', 'b 2'])
  })
  it('nothing to write is no stay', () => {
    expect(stays([])).toEqual([])
  })
})

describe('what a run draws', () => {
  const power = { amps: { idle: 1, erase: 4, write: 3 } } as Family['power']
  const step = (kind: Step['kind'], more: object = {}) =>
    ({ kind, says: kind, predictedMs: 1000, personMs: 500, handsOff: false, ...more }) as Step
  it('is by what the unit does, for as long as it takes with the hands', () => {
    expect(stretchesOf(power, [step('enter'), step('erase'), step('write'), step('verify')])).toEqual([
      { name: 'enter', ms: 1500, unitAmps: 1 },
      { name: 'erase', ms: 1500, unitAmps: 4 },
      { name: 'write', ms: 1500, unitAmps: 3 },
      { name: 'verify', ms: 1500, unitAmps: 1 },
    ])
    // What was learned counts, and has the hands in it already.
    expect(stretchesOf(power, [step('write', { likelyMs: 2100 })])[0]!.ms).toBe(2100)
  })
})

describe('what is due behind a proof', () => {
  const family = {
    postUpdateTasks: [{ id: 'sounds', kind: 'function-test', does: 'Sound it.', expect: 'It sounds.' }],
    isolation: {
      neighbours: [
        { id: 'twin', name: 'Twin horn', pair: true },
        { id: 'lamp', name: 'Lamp' },
      ],
    },
  } as unknown as Family
  const state = (more: object = {}) =>
    ({ facts: { image: { version: '2.48' } }, aftercare: [], ...more }) as unknown as RunState
  const off = (...unplugged: string[]) => ({ isolation: { unplugged } }) as never
  const ids = (list: readonly PostUpdateTaskState[]) => list.map(({ id }) => id)
  it('is what the profile says, and the version of a neighbour that runs as a pair and was taken off', () => {
    expect(ids(postUpdateTasksOf(family, state()))).toEqual(['sounds'])
    expect(ids(postUpdateTasksOf(family, state(), off('lamp')))).toEqual(['sounds'])
    const [, pair] = postUpdateTasksOf(family, state(), off('twin', 'lamp'))
    expect(pair).toEqual({
      id: 'pair-twin',
      kind: 'function-test',
      does: 'Read the version of twin horn: a pair runs one version.',
      expect: 'It says 2.48 too; else it is written next.',
      needs: ['twin'],
      said: null,
    })
    expect(postUpdateTasksOf({}, state())).toEqual([])
  })
  it('names the version of a chip too, and none where none is known', () => {
    const expects = (facts: object) => postUpdateTasksOf(family, state({ facts }), off('twin'))[1]!.expect
    expect(expects({ chip: { version: '3' } })).toBe('It says 3 too; else it is written next.')
    expect(expects({})).toBe('The same as here.')
  })
  it('keeps what was said of each, and the job open for what was not', () => {
    const said = (outcome: string, note?: string) => ({
      item: 'sounds',
      outcome,
      ...(note !== undefined && { note }),
    })
    const left = (...aftercare: object[]) =>
      ids(postUpdateTasksLeft(postUpdateTasksOf(family, state({ aftercare }))))
    expect(postUpdateTasksOf(family, state({ aftercare: [said('done')] }))[0]!.said).toMatchObject({
      outcome: 'done',
    })
    expect(left()).toEqual(['sounds'])
    expect(left({ ...said('done'), item: 'another' })).toEqual(['sounds'])
    expect(left(said('done'))).toEqual([])
    expect(left(said('not-needed'))).toEqual([])
    expect(left(said('failed'))).toEqual(['sounds'])
    expect(left(said('failed', '  '))).toEqual(['sounds'])
    expect(left(said('failed', 'It stays silent.'))).toEqual([])
  })
})

describe('a write whose record is lost', () => {
  it('stops where it can go on from the middle, and goes on to its last byte where a stop would leave half', () => {
    const resumes = drivenLink(demoFamily('mains-relay'))!
    expect(writeUnrecorded(resumes)).toBe('stop')
    expect(writeUnrecorded(drivenLink(demoFamily('tide-logger'))!)).toBe('go-on')
    expect(writeUnrecorded(null)).toBe('go-on')
  })
  const full = new JournalLost(new Error('disk full'))
  it.each<[string, Parameters<typeof whyUnrecorded>, string]>([
    ['nothing begun', [full, null, null], 'disk full. Nothing was begun that is not recorded.'],
    [
      'a write that stopped',
      [full, 'stop', null],
      'disk full. The write stopped between two blocks; it goes on from there.',
    ],
    [
      'a failure before',
      [full, 'go-on', { kind: 'x', says: 'no answer', remedy: 'y' }],
      'disk full. Before that it had failed: no answer.',
    ],
    [
      'a problem with words',
      [
        new JournalLost(new Problem({ kind: 'x', says: 'the folder is gone', remedy: 'Bring it back.' })),
        null,
        null,
      ],
      'the folder is gone. Nothing was begun that is not recorded.',
    ],
    [
      'no error at all',
      [new JournalLost('gone'), null, null],
      'gone. Nothing was begun that is not recorded.',
    ],
  ])('%s is told in sentences', (_, form, says) => {
    expect(whyUnrecorded(...form)).toBe(`The record could not be written: ${says}`)
  })
  it('one that went on says why, and that nothing was started after it', () => {
    expect(whyUnrecorded(full, 'go-on', null)).toMatch(
      /^The record could not be written: disk full\. The write went on to its last byte without a record, .*; nothing was started after it\.$/,
    )
  })
})
