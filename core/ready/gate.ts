import type { Finding, Verdict } from '../kernel'

/** One kind of readiness with its judgement: fit, port, power, wiring, kit. */
export interface Gate {
  id: string
  name: string
  verdict: Verdict
  findings: Finding[]
  /** Figures a screen draws; the unit is in the name. */
  numbers: Record<string, number>
  /** Why nothing was judged, and the way out; for a gate without findings. */
  unjudged?: { says: string; remedy: string }
}
