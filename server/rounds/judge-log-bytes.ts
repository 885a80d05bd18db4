import {
  agreedLog,
  errorMap,
  judgeLog,
  logPicture,
  readCsvLog,
  summarizeLog,
  type CaseAgreement,
} from '@bench-wake/core/rounds'
import type { JudgedLog } from '../db/judged-log'
import { notFound } from '../problem'

/** Reads and judges a log's bytes; takes about a second for a million rows. @throws Problem `log-unread`, `not-found`. */
export function judgeLogBytes(file: Uint8Array, agreement: CaseAgreement, kindId: string): JudgedLog {
  const kind = agreement.kinds.find(({ id }) => id === kindId)
  if (!kind) throw notFound('kind of log', kindId)
  const log = agreedLog(readCsvLog(file), agreement)
  const { channels, limits, floorVolts, aim } = agreement
  const map = aim && errorMap(log, aim)
  return {
    summary: summarizeLog(log),
    findings: judgeLog({ log, kind, channels, limits, floorVolts }),
    errors: map && {
      count: [...map.count],
      mean: Array.from(map.mean, figureOrNone),
      spread: Array.from(map.spread, figureOrNone),
    },
  }
}

/** The picture of a log's agreed channels, SVG. @throws Problem `log-unread`. */
export function logPictureOf(file: Uint8Array, agreement: CaseAgreement, title: string): string {
  const log = agreedLog(readCsvLog(file), agreement)
  return logPicture(
    log,
    agreement.channels.map(({ name }) => name),
    title,
  )
}

/** JSON has no word for "not a number". */
const figureOrNone = (figure: number) => (Number.isNaN(figure) ? null : figure)
