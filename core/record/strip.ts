import { cameToItsEnd, foldWake, type RunState, type StepKind, type WakeEvent } from '../run'

/** A run as one thin strip: what drawing it needs, times in ms from its start. */
export interface Strip {
  totalMs: number
  phases: {
    kind: StepKind
    fromMs: number
    toMs: number
    state: 'done' | 'open' | 'broken' | 'waiting'
    /** The end of a leg that did not reach its own. */
    torn?: true
  }[]
  retriesMs: number[]
  questionsMs: number[]
  /** Where the supply stood below its floor, and how far, as a share of the floor. */
  dips: { atMs: number; depth: number }[]
  /** Cut, failed or abandoned: the right edge is torn. */
  torn: boolean
}

/** The strip of a run: phases in true proportion of the time they took; what is still to come, as predicted. */
export function stripOf(state: RunState): Strip {
  const phases: Strip['phases'] = []
  // Legs before the last are one torn piece each, in true proportion; the time between them is nobody's.
  let cursor = 0
  for (const { startedAt, endedAt } of state.pastLegs) {
    const toMs = cursor + Math.max(1, endedAt - startedAt)
    phases.push({ kind: 'write', fromMs: cursor, toMs, state: 'broken', torn: true })
    cursor = toMs
  }
  const start = state.legAt - cursor
  for (const step of state.steps) {
    if (step.startedAt === undefined) {
      if (state.outcome !== 'running') break
      const toMs = cursor + step.predictedMs + step.personMs
      phases.push({ kind: step.kind, fromMs: cursor, toMs, state: 'waiting' })
      cursor = toMs
      continue
    }
    const fromMs = step.startedAt - start
    const elapsed = (step.endedAt ?? state.at) - start
    const toMs = step.state === 'open' ? Math.max(elapsed, fromMs + step.predictedMs) : elapsed
    phases.push({ kind: step.kind, fromMs, toMs, state: step.state })
    cursor = toMs
  }
  const floor = state.facts.floorVolts
  return {
    totalMs: Math.max(1, cursor),
    phases,
    retriesMs: state.retries.map(({ at }) => at - start),
    questionsMs: state.questions.map(({ at }) => at - start),
    dips: state.supply
      .filter(({ at, volts }) => volts < floor && at >= state.legAt)
      .map(({ at, volts }) => ({ atMs: at - start, depth: (floor - volts) / floor })),
    torn: state.outcome !== 'running' && !cameToItsEnd(state),
  }
}

/** The strip of a whole wake; null while nothing was written. */
export const stripOfWake = (wake: readonly WakeEvent[]): Strip | null => {
  const state = foldWake(wake)
  return state && stripOf(state)
}

/** Ink of a leg that is over: what counts is the last one. */
const tornInk = 0.3

/** Ink of each phase, as a share of full: the two that matter are the darkest. */
const ink: Record<StepKind, number> = {
  'power-up': 0.1,
  swap: 1,
  media: 1,
  connect: 0.25,
  identify: 0.4,
  settings: 0.1,
  enter: 0.4,
  backup: 0.5,
  compare: 0.5,
  'dry-run': 0.4,
  erase: 0.6,
  write: 1,
  verify: 0.6,
  fuses: 0.8,
  restart: 0.25,
  prove: 0.8,
  look: 0.8,
  faults: 0.4,
}

/**
 * The wake strip as SVG text. Colours are CSS variables of the page (`--hull`, `--brass`, `--stop`, `--hair`), so that
 * it is right by day and by night. A notch below for each retry, a tick above for each question, a dip where the
 * supply sagged below its floor, a torn edge where the run was cut.
 * @param label what a person who cannot see it is told.
 */
export function drawStrip(strip: Strip, width: number, height: number, label: string): string {
  const band = { top: height * 0.28, bottom: height * 0.72 }
  const x = (ms: number) => Math.min(width, (ms / strip.totalMs) * width)
  const at = (value: number) => value.toFixed(1)
  const parts: string[] = []
  strip.phases.forEach(({ kind, fromMs, toMs, state, torn }, index) => {
    const left = x(fromMs)
    const last = index === strip.phases.length - 1
    const wide = Math.max(1.5, x(toMs) - left - (last ? 0 : 1))
    const high = band.bottom - band.top
    if (state === 'waiting') {
      parts.push(
        `<rect x="${at(left + 0.5)}" y="${at(band.top + 0.5)}" width="${at(Math.max(0.5, wide - 1))}" height="${at(high - 1)}" fill="none" stroke="var(--hair)"/>`,
      )
      return
    }
    const fill = torn
      ? 'var(--hull)'
      : state === 'open'
        ? 'var(--brass)'
        : state === 'broken'
          ? 'var(--stop)'
          : 'var(--hull)'
    const opacity = torn
      ? ` fill-opacity="${tornInk}"`
      : state === 'done'
        ? ` fill-opacity="${ink[kind]}"`
        : ''
    if (torn || (last && strip.torn)) {
      const right = left + Math.max(6, wide)
      const step = high / 4
      const edge = [0, 1, 2, 3, 4].map(
        (tooth) => `L${at(right - (tooth % 2 ? 0 : 4))} ${at(band.top + tooth * step)}`,
      )
      parts.push(
        `<path d="M${at(left)} ${at(band.top)}${edge.join('')}L${at(left)} ${at(band.bottom)}Z" fill="${fill}"${opacity}/>`,
      )
    } else {
      parts.push(
        `<rect x="${at(left)}" y="${at(band.top)}" width="${at(wide)}" height="${at(high)}" fill="${fill}"${opacity}/>`,
      )
    }
  })
  for (const ms of strip.questionsMs) {
    parts.push(`<path d="M${at(x(ms))} 0V${at(band.top - 1)}" stroke="var(--ink)" stroke-width="1.5"/>`)
  }
  for (const ms of strip.retriesMs) {
    parts.push(
      `<path d="M${at(x(ms))} ${at(band.bottom + 1)}V${at(height)}" stroke="var(--hold)" stroke-width="1.5"/>`,
    )
  }
  for (const { atMs, depth } of strip.dips) {
    const low = band.bottom + Math.min(1, depth * 5) * (height - band.bottom)
    parts.push(`<circle cx="${at(x(atMs))}" cy="${at(low)}" r="1.2" fill="var(--stop)"/>`)
  }
  const title = label.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`)
  return `<svg class="wake-strip" viewBox="-1 0 ${width + 7} ${height}" width="${width + 7}" height="${height}" role="img" aria-label="${title}">${parts.join('')}</svg>`
}
