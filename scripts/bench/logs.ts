import { columnsOf, CsvLogReader, Extremes, judgeLog, readCsvLog, usualKinds } from '@bench-wake/core/rounds'
import Papa from 'papaparse'
import type { Bench, Figure } from './figure'

const rows = 1_000_000
const pieceBytes = 1 << 18

/** A million rows of twelve channels, as loggers write them; a generator by Knuth's constants (MMIX). */
function largeLog(): Buffer {
  let state = 1n
  const chance = () => {
    state = (state * 6364136223846793005n + 1442695040888963407n) & 0xffff_ffff_ffff_ffffn
    return Number(state >> 40n) / 2 ** 24
  }
  const pieces: Buffer[] = [
    Buffer.from(
      'Time [s],Speed [rpm],Load [%],Supply [V],Amps [A],T1 [C],T2 [C],Lambda,Torque [Nm],Error [A],Limit [A],Fan\n',
    ),
  ]
  let lines = ''
  for (let row = 0; row < rows; row++) {
    const figures = [
      (row * 0.01).toFixed(2),
      (chance() * 3000).toFixed(1),
      (chance() * 100).toFixed(1),
      (48 + chance() * 4).toFixed(2),
      (chance() * 200 - 20).toFixed(2),
      (chance() * 80).toFixed(1),
      (chance() * 80).toFixed(1),
      (0.7 + chance() * 0.5).toFixed(3),
      (chance() * 90).toFixed(1),
      (chance() * 10 - 5).toFixed(2),
      (chance() * 200).toFixed(0),
      chance() > 0.5 ? '1' : '0',
    ]
    lines += `${figures.join(',')}\n`
    if (row % 2000 === 1999) {
      pieces.push(Buffer.from(lines))
      lines = ''
    }
  }
  pieces.push(Buffer.from(lines))
  return Buffer.concat(pieces)
}

const timed = <T>(act: () => T): [T, number] => {
  const from = performance.now()
  const answer = act()
  return [answer, performance.now() - from]
}

async function measure(): Promise<Figure[]> {
  const file = largeLog()
  readCsvLog(file.subarray(0, 2_000_000))
  const before = process.memoryUsage()
  const [log, readMs] = timed(() => {
    const reader = new CsvLogReader({ totalBytes: file.length })
    for (let at = 0; at < file.length; at += pieceBytes) reader.push(file.subarray(at, at + pieceBytes))
    return reader.finish()
  })
  const after = process.memoryUsage()
  const held = after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers
  const [findings, judgeMs] = timed(() =>
    judgeLog({
      log,
      kind: { ...usualKinds('Load')[2]!, conditions: [{ channel: 'Load', min: 90, seconds: 4 }] },
      channels: log.channels.map(({ name, unit }) => ({ name, unit, role: 'other' as const })),
      limits: [{ channel: 'Lambda', max: 2, seconds: 0, says: 'It ran lean' }],
      floorVolts: 40,
    }),
  )
  if (findings.some(({ level }) => level === 'stop')) throw new Error('the log of the benchmark is not sound')
  const [, papaMs] = timed(() =>
    Papa.parse(file.toString(), { header: true, dynamicTyping: true, skipEmptyLines: true }),
  )
  const [extremes, blocksMs] = timed(() => log.channels.map(({ values }) => new Extremes(values)))
  const frames = 200
  const [, panMs] = timed(() => {
    for (let frame = 0; frame < frames; frame++)
      for (const channel of extremes) columnsOf(channel, log.seconds, frame * 20, 5000 + frame * 20, 1100)
  })
  return [
    {
      name: 'a log of 1 000 000 rows × 12 channels, read and judged, against papaparse reading it',
      value: readMs + judgeMs,
      unit: 'ms',
      reference: papaMs,
      ratio: papaMs / (readMs + judgeMs),
      wanted: 'at least 6 times as fast',
      holds: papaMs / (readMs + judgeMs) >= 6,
    },
    {
      name: 'memory that the log takes, against its file',
      value: held / 1e6,
      unit: 'MB',
      reference: file.length / 1e6,
      ratio: held / file.length,
      wanted: 'under 3 times the file',
      holds: held / file.length < 3,
    },
    { name: 'its blocks of lowest and highest figures, once', value: blocksMs, unit: 'ms' },
    {
      name: 'a frame of panning over all of its channels',
      value: panMs / frames,
      unit: 'ms',
      reference: 20,
      ratio: 20 / (panMs / frames),
      wanted: '50 frames a second',
      holds: panMs / frames <= 20,
    },
  ]
}

export const logs: Bench = { name: 'logs', measure }
