import { voltsText } from '../../../kernel'
import { field, type Sum } from '../sum'
import { judgeThresholds } from '../thresholds'

/** The calculator of this: its questions, its answer and its picture. */
export const thresholdOrderSum: Sum = {
  id: 'threshold-order',
  name: 'Order of thresholds',
  source: 'Start below stop, neither below the floor, or the unit does not start (common practice).',
  fields: [
    field('startVolts', 'Generator starts below', 'volts', '49 V', 0, 1000),
    field('stopVolts', 'And stops above', 'volts', '54 V', 0, 1000),
    field('floorVolts', 'The unit’s floor', 'volts', '48 V', 0, 1000),
  ],
  work(values) {
    const form = values as Record<'startVolts' | 'stopVolts' | 'floorVolts', number>
    return {
      numbers: { ...form },
      says: [{ label: 'Between start and stop', value: voltsText(form.stopVolts - form.startVolts) }],
      picture: {
        kind: 'scale',
        unit: 'V',
        marks: [
          { label: 'floor', value: form.floorVolts, limit: true },
          { label: 'start', value: form.startVolts },
          { label: 'stop', value: form.stopVolts },
        ],
      },
      findings: judgeThresholds(form),
    }
  },
}
