import { describe, expect, it } from 'vitest'
import { isProblem, Problem } from '../kernel'
import {
  bitsPerCharacter,
  discardInput,
  lineOf,
  lineText,
  portClosed,
  portLost,
  readExactly,
  standInOf,
  standInPort,
  wireMs,
  type Port,
  type SerialSettings,
} from '.'
import { joinOrNobody } from './join'
import { retryPassing } from './retry-passing'

const plain = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 } as const

describe('the settings of a line', () => {
  // How a technician writes them: common practice.
  it.each([
    [plain, '9600 baud, 8N1'],
    [{ ...plain, baudRate: 19_200, parity: 'even' }, '19200 baud, 8E1'],
    [{ ...plain, dataBits: 7, parity: 'odd', stopBits: 2 }, '9600 baud, 7O2'],
    [{ ...plain, parity: 'mark' }, '9600 baud, 8M1'],
    [{ ...plain, dataBits: 5, parity: 'space' }, '9600 baud, 5S1'],
    [{ ...plain, flow: 'rts-cts' }, '9600 baud, 8N1, RTS/CTS'],
    [{ ...plain, flow: 'xon-xoff' }, '9600 baud, 8N1, XON/XOFF'],
  ] as [SerialSettings, string][])('%o are written %s, and read again', (settings, text) => {
    expect(lineText(settings)).toBe(text)
    expect(lineOf(text)).toEqual(settings)
  })
  it.each([
    '9600 baud',
    '9600 baud, 9N1',
    '9600 baud, 4N1',
    '9600 baud, 8X1',
    '9600 baud, 8N3',
    '9600 baud, 8N1, DTR',
    'about 9600 baud, 8N1',
    '9600 baud, 8N1 or so',
    'baud, 8N1',
  ])('%s are none', (text) => expect(lineOf(text)).toBeNull())
})

// Source: a character is a start bit, its data, its parity and its stop bits (RS-232 practice; TIA-574 from memory).
describe('the time on the wire', () => {
  it.each([
    ['8N1', { ...plain }, 10],
    ['8E1', { ...plain, parity: 'even' }, 11],
    ['8N2', { ...plain, stopBits: 2 }, 11],
    ['7O2', { ...plain, dataBits: 7, parity: 'odd', stopBits: 2 }, 11],
    ['5N1', { ...plain, dataBits: 5 }, 7],
  ] as [string, SerialSettings, number][])('a character of %s', (_, settings, bits) => {
    expect(bitsPerCharacter(settings)).toBe(bits)
  })
  it('960 characters at 9 600 baud, 8N1, are a second', () => {
    expect(wireMs(960, plain)).toBe(1000)
    expect(wireMs(0, plain)).toBe(0)
    expect(wireMs(960, { ...plain, baudRate: 19_200, parity: 'even' })).toBe(550)
  })
})

/** A port whose reads come as written down; null is a silence. */
function saying(...pieces: (number[] | null)[]) {
  const asked: [number, number][] = []
  const port = {
    read: async (max: number, timeoutMs: number) => {
      asked.push([max, timeoutMs])
      const piece = pieces[asked.length - 1]
      return piece ? Uint8Array.from(piece) : null
    },
  } as unknown as Port
  return { port, asked }
}

describe('reading a number of bytes', () => {
  it('puts pieces together, and asks for no more than what is missing', async () => {
    const { port, asked } = saying([1, 2], [3], [4])
    expect([...(await readExactly(port, 4, 50))!]).toEqual([1, 2, 3, 4])
    expect(asked).toEqual([
      [4, 50],
      [2, 50],
      [1, 50],
    ])
    const whole = saying([1, 2], [3])
    expect([...(await readExactly(whole.port, 2, 50))!]).toEqual([1, 2])
    expect(whole.asked).toHaveLength(1)
  })
  it('gives nothing where the rest does not come', async () => {
    expect(await readExactly(saying(null).port, 2, 50)).toBeNull()
    expect(await readExactly(saying([1], null).port, 2, 50)).toBeNull()
    expect(await readExactly(saying([1], [2], null).port, 3, 50)).toBeNull()
  })
  it('throws away what was said until the line is quiet', async () => {
    const { port, asked } = saying([1], [2, 3], null, [4])
    await discardInput(port, 20)
    expect(asked).toEqual([
      [4096, 20],
      [4096, 20],
      [4096, 20],
    ])
    const soon = saying(null)
    await discardInput(soon.port)
    expect(soon.asked).toEqual([[4096, 0]])
  })
})

describe('a port that is gone', () => {
  it('was let go, or went away, with what the system says', () => {
    expect(portClosed('jack').facts).toMatchObject({ kind: 'port-closed', thing: 'jack' })
    expect(portLost('jack', 'EIO').facts).toMatchObject({ kind: 'port-lost', thing: 'jack', found: 'EIO' })
    expect(portLost('jack').facts).not.toHaveProperty('found')
  })
  it('of a stand-in is told by its name', () => {
    expect(standInOf(standInPort('u-1'))).toBe('u-1')
    expect(standInPort('u-1')).toBe('stand-in:u-1')
    expect(standInOf('/dev/stand-in:u-1')).toBeNull()
  })
})

describe('an act that is tried again', () => {
  const trouble = (kind: string) => new Problem({ kind, says: 'trouble', remedy: 'None.' })
  const failing = (...kinds: string[]) => {
    let tries = 0
    const act = async () => {
      const kind = kinds[tries++]
      if (kind) throw trouble(kind)
      return tries
    }
    return { act, tries: () => tries }
  }
  const kindOf = (error: unknown) => isProblem(error) && error.facts.kind

  it('comes through while its trouble may pass, and is asked as often as it may be', async () => {
    const between: number[] = []
    const { act, tries } = failing('noise', 'noise')
    const onRetry = () => void between.push(tries())
    expect(await retryPassing(act, { tries: 3, passing: ['lost', 'noise'], onRetry })).toBe(3)
    expect(between).toEqual([1, 2])
    const worse = failing('noise', 'lost', 'noise')
    const end = await retryPassing(worse.act, { tries: 2, passing: ['lost', 'noise'] }).catch(kindOf)
    expect([end, worse.tries()]).toEqual(['lost', 2])
  })
  it('is not tried again for another trouble', async () => {
    const { act, tries } = failing('refused')
    expect(await retryPassing(act, { tries: 5, passing: ['noise'] }).catch(kindOf)).toBe('refused')
    expect(tries()).toBe(1)
  })
  it('by which something is joined tells a silence as nobody there, and keeps every other trouble', async () => {
    const silent = failing('dap-silence')
    expect(await joinOrNobody(silent.act, 'dap-silence').catch(kindOf)).toBe('no-bootloader')
    expect(silent.tries()).toBe(1)
    const refused = failing('dap-refused', 'dap-refused', 'dap-refused')
    expect(await joinOrNobody(refused.act, 'dap-silence').catch(kindOf)).toBe('dap-refused')
    expect(refused.tries()).toBe(2)
    for (const passing of ['usb-stall', 'dap-answer', 'dap-refused']) {
      const once = failing(passing)
      await joinOrNobody(once.act, 'dap-silence')
      expect(once.tries()).toBe(2)
    }
  })
})
