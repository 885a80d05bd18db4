import { describe, expect, it } from 'vitest'
import { demoFamily } from '@bench-wake/demo'
import type { DrivenLink } from '../../family'
import type { AgreedChannel } from '../quality'
import {
  channelSourceIn,
  channelSourceText,
  figureOfText,
  linkToRecord,
  recordingFault,
  type ChannelSource,
} from '.'

const bytes = { at: 0, order: 'big', scale: 1, offset: 0 }

describe('how the bench gets a channel', () => {
  it.each([
    ['0x2001 u16', { identifier: 0x2001, ...bytes, type: 'u16' }],
    [
      '0x2001 byte 2 i8 × 0,5 - 40',
      { identifier: 0x2001, ...bytes, at: 2, type: 'i8', scale: 0.5, offset: -40 },
    ],
    [
      '0xF4 u16le *0.1 +3',
      { identifier: 0xf4, ...bytes, type: 'u16', order: 'little', scale: 0.1, offset: 3 },
    ],
    ['0xF201 u16 × 0.1 fast', { identifier: 0xf201, ...bytes, type: 'u16', scale: 0.1, rate: 'fast' }],
    ['0xF2FF u8 - 40 slow', { identifier: 0xf2ff, ...bytes, type: 'u8', offset: -40, rate: 'slow' }],
    ['0xF2FF u8 medium', { identifier: 0xf2ff, ...bytes, type: 'u8', rate: 'medium' }],
    ['line supply', { line: 'supply', scale: 1, offset: 0 }],
    ['line "Supply voltage" × 0.001', { line: 'Supply voltage', scale: 0.001, offset: 0 }],
    ['beside lambda × 14.7', { beside: 'lambda', scale: 14.7, offset: 0 }],
    ['BESIDE lambda - 1', { beside: 'lambda', scale: 1, offset: -1 }],
  ])('%s', (text, read) => {
    expect(channelSourceIn(text)).toEqual(read)
    expect(channelSourceIn(channelSourceText(read as ChannelSource))).toEqual(read)
  })
  it.each([
    '',
    '2001 u16',
    '0x2001',
    '0x2001 u12',
    '0x20011 u8',
    '0x2001 byte 256 u8',
    '0x2001 u8 × a',
    '0x2001 u8 × 1.2.3',
    // Only F200 to F2FF are sent by themselves (ISO 14229-1, service 2A).
    '0x2001 u16 fast',
    '0xF101 u16 fast',
    '0xF300 u16 slow',
    '0xF201 u16 quick',
    'line',
    'line ""',
    'line " "',
    'beside',
    'behind lambda',
  ])('not "%s"', (text) => expect(channelSourceIn(text)).toBeNull())
  it('byte 255 is the last', () => {
    expect(channelSourceIn('0x2001 byte 255 u8')).toMatchObject({ at: 255 })
  })
})

describe('a figure in a text', () => {
  it.each([
    ['0.98', 0.98],
    ['12,41 V', 12.41],
    ['lambda -0.5', -0.5],
    ['+3 °C', 3],
    ['.75', 0.75],
    ['1.5e-3 A', 0.0015],
    ['4 of 9', 4],
  ])('%s', (text, figure) => expect(figureOfText(text)).toBe(figure))
  it.each(['', 'none', '-', undefined])('none in "%s"', (text) => expect(figureOfText(text)).toBeNaN())
})

describe('a list that a link cannot give', () => {
  const link = (speaks: string): DrivenLink =>
    demoFamily('launch-motor').links.find(({ drive }) => drive?.speaks === speaks) as DrivenLink
  const list = (...sources: string[]): AgreedChannel[] =>
    sources.map((text, index) => {
      const read = channelSourceIn(text)
      return { name: `Channel ${index + 1}`, unit: '', role: 'other', ...(read ? { read } : {}) }
    })
  const sends = (periods: object): DrivenLink => {
    const uds = link('uds')
    return { ...uds, drive: { ...uds.drive, periodic: periods } } as DrivenLink
  }
  const console = demoFamily('fog-signal').links.find(({ drive }) => drive?.speaks === 'script') as DrivenLink
  it.each([
    ['nobody says how', list('0x2001 u8', ''), link('uds'), 'how the bench gets Channel 2'],
    ['all of it is a second device’s', list('beside a'), link('uds'), 'read from the unit itself'],
    ['data identifiers of a console', list('0x2001 u8'), console, 'has no data identifiers'],
    ['a rate without periods', list('0xF201 u8 fast'), sends({}), 'at the rate "fast"'],
    ['another rate', list('0xF201 u8 slow'), sends({ fastMs: 20 }), 'at the rate "slow"'],
    ['a rate on the single wire', list('0xF201 u8 slow'), link('kwp'), 'at the rate "slow"'],
    ['both ways', list('0xF201 u8 fast', '0x2001 u8'), sends({ fastMs: 20 }), 'one log takes one way'],
    [
      'a rate and a line',
      list('0xF201 u8 fast', 'line serial'),
      sends({ fastMs: 20 }),
      'one log takes one way',
    ],
  ])('%s', (_, channels, over, says) => expect(recordingFault(channels, over, true)).toContain(says))
  it('a second device that nobody described', () => {
    const channels = list('0x2001 u8', 'beside lambda')
    expect(recordingFault(channels, link('uds'), false)).toContain('which device gives Channel 2')
    expect(recordingFault(channels, link('uds'), true)).toBeNull()
  })
  it.each([
    [list('0x2001 u8', '0x2002 u16'), link('uds')],
    [list('0x2001 u8', 'line serial'), link('uds')],
    [list('0x2001 u8'), link('kwp')],
    [list('0xF201 u8 fast', '0xF202 u8 slow'), sends({ fastMs: 20, slowMs: 1000 })],
    [list('0xF201 u8 fast', 'beside lambda'), sends({ fastMs: 20 })],
    [list('line supply'), console],
  ])('%#: none of these', (channels, over) => expect(recordingFault(channels, over, true)).toBeNull())

  it('is recorded over the link that gives it, and over the one that is joined', () => {
    const { links } = demoFamily('launch-motor')
    const asked = { channels: list('0x2001 u8'), beside: undefined }
    const both = { links: [console, ...links] }
    expect(linkToRecord(both, asked)!.link.drive.speaks).toBe('uds')
    expect(linkToRecord(both, asked, console.id)).toMatchObject({ link: { id: console.id } })
    expect(linkToRecord(both, asked, console.id)!.fault).toContain('no data identifiers')
    expect(linkToRecord(both, { channels: list('') })!.fault).toContain('nobody said')
    expect(linkToRecord({ links: [] }, asked)).toBeNull()
  })
})
