import { componentOf, drivenLink } from '@bench-wake/core/family'
import { virtualClock } from '@bench-wake/core/kernel'
import { openLink } from '@bench-wake/core/link'
import {
  CaseAgreement,
  columnEdges,
  columnsOf,
  CsvLogReader,
  Extremes,
  judgeLog,
  readCsvLog,
  readDefinitionDocument,
  askedRows,
  recordChannels,
  rowJitter,
  tableValues,
  usualKinds,
} from '@bench-wake/core/rounds'
import {
  baseImage,
  demoFamily,
  demoStandIn,
  demoUnits,
  roundsAgreement,
  roundsDefinition,
} from '@bench-wake/demo'
import { motorHands, standInOf } from '@bench-wake/standins'
import * as v from 'valibot'
import Papa from 'papaparse'
import type { Bench, Figure } from './figure'
import { largeLog } from './large-log'

const pieceBytes = 1 << 18

const timed = <T>(act: () => T): [T, number] => {
  const from = performance.now()
  const answer = act()
  return [answer, performance.now() - from]
}

/** A list of channels over the stand-in's own link, in its own time: adapter text, bus and services as on a real one. */
async function recorded(): Promise<Figure[]> {
  return [...(await recordedOver(4, 600)), ...(await recordedOver(40, 60))]
}

async function recordedOver(count: number, recordedSeconds: number): Promise<Figure[]> {
  const family = demoFamily('launch-motor')
  const unit = demoUnits.find(({ id }) => id === 'launch-3')!
  const { hardware, flash, lines } = demoStandIn(unit)
  const state = { flash: new Uint8Array(flash), usedAh: 0, inBootloader: false, lines }
  const standIn = standInOf({ id: unit.id, name: unit.name, family, hardware, serial: unit.serial, state })
  const { channels } = v.parse(CaseAgreement, roundsAgreement)
  const given = channels.flatMap((channel) => (channel.read ? [{ ...channel, read: channel.read }] : []))
  const read = Array.from({ length: count }, (_, index) => given[index % given.length]!)
  const table = readDefinitionDocument(roundsDefinition).tables[0]!
  standIn.drive?.(motorHands(tableValues(baseImage(), table)!, 'light-load', channels, 1))
  const clock = virtualClock(() => new Promise<void>((done) => setImmediate(done)))
  const link = drivenLink(family)!
  const driver = openLink(standIn.connect(clock).channel, clock, family, link, componentOf(family))
  await driver.open()
  const log = await recordChannels(
    askedRows({ ask: (identifier) => driver.readData!(identifier) }, clock, read),
    clock,
    {
      channels: read,
      seconds: recordedSeconds,
      stopped: () => false,
    },
  )
  await driver.close()
  const rows = log.seconds.length
  const hertz = rows / recordedSeconds
  const lost = log.channels.reduce((sum, { values }) => sum + values.filter(Number.isNaN).length, 0)
  const { medianMs, p99Ms } = rowJitter(log.seconds)
  // ISO 11898-1: 108 bits of a full frame and 3 between two, without any stuff bit; two frames a channel. The adapter takes
  // each as a line of 22 characters of text and answers the one it sends with two, ten bits each, at two megabaud.
  const channelMs = (2 * 111 * 1000) / 500_000 + (46 * 10 * 1000) / 2_000_000
  const limit = Math.min(100, 1000 / (read.length * channelMs))
  return [
    {
      name: `rows a second over ${recordedSeconds} s of ${count} channels, against frames and the adapter’s text alone`,
      value: hertz,
      unit: 'rows/s',
      reference: limit,
      ratio: hertz / limit,
    },
    {
      name: `readings that were lost in these ${recordedSeconds} s`,
      value: lost,
      unit: 'readings',
      wanted: 'none',
      holds: lost === 0,
    },
    {
      name: 'step from row to row, the longest of a hundred against the middle one',
      value: p99Ms,
      unit: 'ms',
      reference: medianMs,
      ratio: p99Ms / medianMs,
    },
  ]
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
    for (let frame = 0; frame < frames; frame++) {
      const edges = columnEdges(log.seconds, frame * 20, 5000 + frame * 20, 1100)
      for (const channel of extremes) columnsOf(channel, edges)
    }
  })
  return [
    ...(await recorded()),
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
