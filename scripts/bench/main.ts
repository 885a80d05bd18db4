import { writeFileSync } from 'node:fs'
import { asInLife } from './as-in-life'
import { killed } from './killed'
import { sideBySide } from './side-by-side'
import { simulatedRuns } from './simulated-runs'
import { benchGate } from './bench-gates'
import { diagnosis } from './diagnosis'
import { damage } from './damage'
import type { Figure } from './figure'
import { logPage } from './log-page'
import { logs } from './logs'
import { many } from './many'
import { fuzz } from './fuzz'
import { hands, handsNew } from './hands'
import { intelHex } from './intel-hex'
import { pastRunsBench } from './past-runs'
import { rehearsal } from './rehearsal'
import { adapters } from './adapters'
import { disturbed, links } from './links'
import { faultedScripts, scripts } from './scripts'
import { screens } from './screens'
import { large, matrix, verdict } from './shelf'
import { stall } from './stall'
import { wrongMoment } from './wrong-moment'
import { xmodem } from './xmodem'

const benches = [
  xmodem,
  links,
  adapters,
  scripts,
  faultedScripts,
  asInLife,
  sideBySide,
  simulatedRuns,
  killed,
  wrongMoment,
  fuzz,
  damage,
  screens,
  hands,
  handsNew,
  many,
  stall,
  pastRunsBench,
  disturbed,
  intelHex,
  logs,
  logPage,
  rehearsal,
  benchGate,
  diagnosis,
  verdict,
  matrix,
  large,
]

const option = (name: string) => {
  const at = process.argv.indexOf(name)
  return at < 0 ? undefined : process.argv[at + 1]
}
const only = option('--only')
const file = option('--json')

const figures: Figure[] = []
for (const bench of benches) {
  if (only && !bench.name.includes(only)) continue
  for (const figure of await bench.measure()) {
    figures.push(figure)
    const { name, value, unit, reference, ratio, wanted, holds } = figure
    const against = reference === undefined ? '' : `, against ${reference.toFixed(1)} ${unit}`
    const share = ratio === undefined ? '' : `, ratio ${ratio.toFixed(3)}`
    const verdict = wanted === undefined ? '' : ` (wanted: ${wanted}; ${holds ? 'holds' : 'does not hold'})`
    console.log(`${name}: ${value.toFixed(1)} ${unit}${against}${share}${verdict}`)
  }
}
if (file) writeFileSync(file, `${JSON.stringify(figures, null, 2)}\n`)
