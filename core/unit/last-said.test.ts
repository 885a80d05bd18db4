import { describe, expect, it } from 'vitest'
import { hintOf, lastSaid, type Snapshot } from '.'

/* PRACTICE A1, common practice: what stands on a label is read once; what a menu shows is read each time. */

const page = (at: number, source: Snapshot['source'], lines: Snapshot['lines']): Snapshot => ({
  at,
  source,
  lines,
})
const line = (field: string, value: string, source?: Snapshot['source']) => ({
  field,
  label: field,
  value,
  ...(source ? { source } : {}),
})

it('a grey hint tells the form of a serial, and never another unit’s', () => {
  expect(hintOf({ field: 'serial', example: 'FS3-00417' })).toBe('FS0-00000')
  expect(hintOf({ field: 'version.main', example: '2.41' })).toBe('2.41')
  expect(hintOf({ field: 'hours' })).toBe('')
})

describe('what was read last', () => {
  const said = lastSaid([
    page(1, 'menu', [line('version.main', '2.41'), line('batch', 'B-7', 'label')]),
    page(2, 'menu', [line('version.main', '2.45'), line('hours', ' ')]),
    page(3, 'chip-marking', [line('chip', 'M-20')]),
  ])
  it('is told line by line, with where and when', () => {
    expect(said.get('version.main')).toEqual({ value: '2.45', source: 'menu', at: 2, lasts: false })
    expect(said.get('batch')).toEqual({ value: 'B-7', source: 'label', at: 1, lasts: true })
    expect(said.get('chip')).toEqual({ value: 'M-20', source: 'chip-marking', at: 3, lasts: true })
  })
  it('leaves out what nobody could read', () => {
    expect(said.has('hours')).toBe(false)
    expect(lastSaid([]).size).toBe(0)
    expect(lastSaid([page(1, 'menu', [line('a', '1')]), page(2, 'menu', [line('a', '')])]).get('a')!.at).toBe(
      1,
    )
  })
  it('follows the order in which pages were recorded, whatever the clock said', () => {
    expect(
      lastSaid([page(9, 'menu', [line('a', 'old')]), page(4, 'menu', [line('a', 'new')])]).get('a')!.value,
    ).toBe('new')
  })
})
