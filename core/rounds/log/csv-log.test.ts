import fc from 'fast-check'
import Papa from 'papaparse'
import { describe, expect, it } from 'vitest'
import { asciiBytes, isProblem } from '../../kernel'
import { channelNamed, clockSeconds, CsvLogReader, durationOf, readCsvLog, rowsOf, sniffCsv } from '.'

const bytes = (text: string) => new TextEncoder().encode(text)
const read = (text: string) => readCsvLog(bytes(text))
const rules = (log: ReturnType<typeof read>) => log.findings.map(({ rule }) => rule)
const rows = (count: number, row: (index: number) => string) =>
  Array.from({ length: count }, (_, i) => row(i)).join('\n')

describe('a log as CSV', () => {
  it('reads time, names, units and figures', () => {
    const log = read('Time [s],Motor speed [rpm],Pedal (%)\n0.00,800,0\n0.05,812.5,3\n0.10,-1,99.5\n')
    expect(rowsOf(log)).toBe(3)
    expect([...log.seconds]).toEqual([0, 0.05, 0.1])
    expect(log.channels.map(({ name, unit }) => [name, unit])).toEqual([
      ['Motor speed', 'rpm'],
      ['Pedal', '%'],
    ])
    expect([...log.channels[0]!.values]).toEqual([800, 812.5, -1])
    expect(log.findings).toEqual([])
  })

  it('reads the same from a semicolon, decimal comma and clock time', () => {
    const log = read(
      'Uhrzeit;Drehzahl/rpm;Lambda\r\n12:04:31,250;1012,5;0,98\r\n12:04:31,500;1020,0;1,02\r\n12:04:31,750;1030,5;1,00\r\n',
    )
    expect([...log.seconds]).toEqual([0, 0.25, 0.5])
    expect([...channelNamed(log, 'Drehzahl')!.values]).toEqual([1012.5, 1020, 1030.5])
    expect([...channelNamed(log, 'Lambda')!.values]).toEqual([0.98, 1.02, 1])
  })

  it('reads a decimal comma within quotes where commas part the fields', () => {
    const log = read('time,volts\n"0,0","12,41"\n"0,5","12,40"\n"1,0","12,38"\n')
    expect([...log.channels[0]!.values]).toEqual([12.41, 12.4, 12.38])
    expect([...log.seconds]).toEqual([0, 0.5, 1])
  })

  it.each([
    ['ms by its unit', 'Time [ms],V\n100,1\n150,2\n200,3\n', [0, 0.05, 0.1]],
    ['ms by whole large steps', 'time,V\n100,1\n150,2\n200,3\n300,1\n', [0, 0.05, 0.1, 0.2]],
    ['seconds that are whole', 'time,V\n1,1\n2,2\n3,3\n4,1\n', [0, 1, 2, 3]],
    ['a clock across midnight', 'time,V\n23:59:59,1\n00:00:00,2\n00:00:01,3\n', [0, 1, 2]],
    [
      'a date with its clock',
      'time,V\n2026-11-24T12:00:00Z,1\n2026-11-24T12:00:00.5Z,2\n2026-11-24 12:00:01Z,3\n',
      [0, 0.5, 1],
    ],
    ['the column that rises, where none is called time', 'a,b\n5,1\n6,1\n8,1\n', [0, 1, 3]],
  ])('knows the time: %s', (_, text, seconds) => {
    const log = read(text)
    expect([...log.seconds].map((each) => Number(each.toFixed(6)))).toEqual(seconds)
  })

  it('says so where nothing is the time, and counts rows', () => {
    const log = read('a,b\n5,1\n4,1\n8,1\n')
    expect(log.findings).toMatchObject([{ rule: 'log-no-time', level: 'hold' }])
    expect(log.channels).toHaveLength(2)
  })

  it('takes a byte order mark, a preamble, a row of units and a last line without its end', () => {
    const log = read(
      '\uFEFFMade by the logger\nBoat: pilot launch\nTime;Speed;Volts\ns;rpm;V\n0,0;10;48,1\n0,1;20;48,0\n0,2;30;47,9',
    )
    expect(log.preamble).toEqual(['Made by the logger', 'Boat: pilot launch'])
    expect(log.channels.map(({ name, unit }) => `${name} ${unit}`)).toEqual(['Speed rpm', 'Volts V'])
    expect([...log.channels[1]!.values]).toEqual([48.1, 48, 47.9])
  })

  it('reads names in UTF-8 and in the one-byte set of older programs', () => {
    const utf8 = read('time,Öltemperatur [°C]\n0,80\n1,81\n2,82\n')
    expect(utf8.channels[0]).toMatchObject({ name: 'Öltemperatur', unit: '°C' })
    const old = readCsvLog(
      Uint8Array.from([...'time,\xd6l [\xb0C]\n0,80\n1,81\n2,82\n'].map((c) => c.charCodeAt(0))),
    )
    expect(old.channels[0]).toMatchObject({ name: 'Öl', unit: '°C' })
  })

  it('leaves empty fields and words without a figure, and takes switches', () => {
    const log = read('time,Volts,Fan,Gear\n0,12.1,on,N\n1,,off,N\n2,n/a,true,1\n')
    expect([...log.channels[0]!.values]).toEqual([12.1, NaN, NaN])
    expect([...log.channels[1]!.values]).toEqual([1, 0, 1])
  })

  it.each(['1e3', '-2.5E-3', '0.12345678901234567', '123456789012345678', '.5', '+7', '-0.000001'])(
    'reads %s as JavaScript does',
    (text) => {
      const log = read(`time,V\n0,${text}\n1,${text}\n2,${text}\n`)
      expect(log.channels[0]!.values[0]).toBe(Number(text))
    },
  )

  it('gives the figures of papaparse, however the file is cut into pieces', () => {
    const figure = fc.oneof(
      fc.integer({ min: -100_000, max: 100_000 }).map(String),
      fc
        .tuple(fc.integer({ min: -9999, max: 9999 }), fc.integer({ min: 1, max: 6 }))
        .map(([n, d]) => (n / 7).toFixed(d)),
      fc.double({ noNaN: true, noDefaultInfinity: true }).map(String),
      fc.constant(''),
    )
    fc.assert(
      fc.property(
        fc.array(fc.tuple(figure, figure, figure), { minLength: 3, maxLength: 40 }),
        fc.integer({ min: 1, max: 50 }),
        fc.constantFrom('\n', '\r\n'),
        (body, piece, end) => {
          const text = `time,a,b,c${end}${body.map((row, index) => [index / 10, ...row].join(',')).join(end)}${end}`
          const file = bytes(text)
          const reader = new CsvLogReader()
          for (let at = 0; at < file.length; at += piece) reader.push(file.subarray(at, at + piece))
          const log = reader.finish()
          const { data } = Papa.parse<Record<string, number | string | null>>(text, {
            header: true,
            dynamicTyping: true,
            skipEmptyLines: true,
          })
          expect(rowsOf(log)).toBe(data.length)
          for (const name of ['a', 'b', 'c'])
            data.forEach((row, index) => {
              const value = row[name]
              const mine = log.channels.find((each) => each.name === name)!.values[index]
              expect(mine).toBe(
                typeof value === 'number' ? value : value === null || value === '' ? NaN : Number(value),
              )
            })
        },
      ),
      { numRuns: 200 },
    )
  })

  it('names the line where the heading stands again, and goes on after it', () => {
    const log = read(`time,V\n${rows(5, (i) => `${i},1`)}\ntime,V\n${rows(5, (i) => `${i + 9},2`)}\n`)
    expect(rowsOf(log)).toBe(10)
    expect(log.findings).toMatchObject([{ rule: 'log-header-again', numbers: { line: 7, times: 1 } }])
  })

  it('leaves single lines of another width out and names the first', () => {
    const log = read(
      `time,V,A\n${rows(4, (i) => `${i},1,2`)}\n4,1\n5,1,2,3,4\n${rows(4, (i) => `${i + 6},1,2`)}\n`,
    )
    expect(rowsOf(log)).toBe(8)
    expect(log.findings).toMatchObject([
      { rule: 'log-columns-change', level: 'note', numbers: { lines: 2, line: 6 } },
    ])
  })

  it('ends where the number of columns changes for good', () => {
    const log = read(`time,V\n${rows(30, (i) => `${i},1`)}\n${rows(200, (i) => `${i + 30},1,5`)}\n`)
    expect(rowsOf(log)).toBe(30)
    expect(log.findings).toMatchObject([{ rule: 'log-columns-change', level: 'hold', numbers: { line: 32 } }])
  })

  it('takes an empty field more at the end of each line', () => {
    const log = read(`time;V;\n${rows(9, (i) => `${i};1;`)}\n`)
    expect(rowsOf(log)).toBe(9)
    expect(rules(log)).toEqual([])
  })

  it('ends where bytes are no text and says in which line', () => {
    const log = readCsvLog(
      Uint8Array.from([
        ...asciiBytes(`time,V\n${rows(9, (i) => `${i},1`)}\n`),
        ...Array.from({ length: 5000 }, (_, i) => (i * 7) % 9),
        10,
        ...asciiBytes('11,1\n'),
      ]),
    )
    expect(rowsOf(log)).toBe(9)
    expect(log.findings).toMatchObject([{ rule: 'log-junk', level: 'hold', numbers: { line: 11 } }])
  })

  it.each([
    ['an image', Uint8Array.from({ length: 5000 }, (_, i) => (i * 31) & 255), 'no text'],
    ['words', bytes('This is a letter.\nIt has no figures.\nNone at all.\n'), 'no table'],
    ['nothing', new Uint8Array(0), 'no table'],
    ['a measurement file', bytes('MDF     4.10    Logger  \0\0\0\0'), 'MDF'],
    ['UTF-16 without rows', Uint8Array.from([0xff, 0xfe, 0x74, 0, 0x69, 0]), 'no table'],
  ])('refuses %s in words', (_, file, says) => {
    let problem: unknown
    try {
      readCsvLog(file)
    } catch (error) {
      problem = error
    }
    expect(isProblem(problem, 'log-unread') && problem.facts.says).toContain(says)
  })

  it('grows where nobody said how large the file is', () => {
    const reader = new CsvLogReader()
    reader.push(bytes('time,V\n'))
    for (let i = 0; i < 60; i++) reader.push(bytes(`${rows(1000, (j) => `${i * 1000 + j},${j % 7}`)}\n`))
    const log = reader.finish()
    expect(rowsOf(log)).toBe(60_000)
    expect(durationOf(log)).toBe(59_999)
    expect(log.channels[0]!.values[59_999]).toBe(999 % 7)
  })
})

describe('times of a log', () => {
  it.each([
    ['12:04:31', 43_471],
    ['12:04:31.5', 43_471.5],
    ['12:04:31,250', 43_471.25],
    ['4:31', 271],
    ['2026-11-24T00:00:00Z', Date.parse('2026-11-24T00:00:00Z') / 1000],
    ['2026-11-24T12:30:00+02:00', Date.parse('2026-11-24T12:30:00+02:00') / 1000],
    ['24.11.2026 12:04:31', Date.parse('2026-11-24T12:04:31Z') / 1000],
    ['2026-11-24 12:04', Date.parse('2026-11-24T12:04:00Z') / 1000],
  ])('%s', (text, seconds) => expect(clockSeconds(text)).toBe(seconds))
  it.each(['', '12', '12.5', 'noon', '12:75:00', '12:04:61', '1:2'])('no time: "%s"', (text) =>
    expect(clockSeconds(text)).toBeNaN(),
  )
})

describe('how a file is written', () => {
  it.each([
    [';', ','],
    ['\t', ','],
    [',', '.'],
    ['|', '.'],
  ])('fields parted by %j, decimals by %j', (delimiter, decimal) => {
    const lines = ['Time', ...[1, 2, 3].map((each) => `${each}${decimal}5`)].map((first, index) =>
      [first, ...(index === 0 ? ['Volts', 'Amps'] : ['12', `3${decimal}25`])].join(delimiter),
    )
    const dialect = sniffCsv(lines)
    expect([dialect.delimiter, dialect.decimal].map((code) => String.fromCharCode(code))).toEqual([
      delimiter,
      decimal,
    ])
    expect(dialect.names).toEqual(['Time', 'Volts', 'Amps'])
  })
  it('names columns where there is no heading', () => {
    expect(sniffCsv(['0,1', '1,2', '2,3']).names).toEqual(['Column 1', 'Column 2'])
  })
})
