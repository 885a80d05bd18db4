import { voltsText } from '../../../kernel'
import { generatorShare } from '../generator'
import { field, figure, type Sum } from '../sum'

export const generatorShareSum: Sum = {
  id: 'generator-share',
  name: 'Inverters on one generator',
  source: 'Charger amps are amps at battery volts: 10 A at 48 V is 480 W (common practice).',
  fields: [
    field('generatorWatts', 'Generator', 'watts', '1 kW', 1),
    field('batteryVolts', 'Battery', 'volts', '48 V', 1, 1000),
    field('firstAmps', 'Charge current, first inverter', 'amps', '10 A'),
    field('secondAmps', 'Second inverter', 'amps', '0 A'),
    field('wattHours', 'To go into the battery', 'watt-hours', '10 kWh'),
  ],
  work(values) {
    const { generatorWatts, batteryVolts, firstAmps, secondAmps, wattHours } = values as Record<
      'generatorWatts' | 'batteryVolts' | 'firstAmps' | 'secondAmps' | 'wattHours',
      number
    >
    const share = generatorShare({
      generatorWatts,
      batteryVolts,
      chargeAmps: [firstAmps, secondAmps],
      wattHours,
    })
    const over = share.overWatts > 0
    return {
      numbers: {
        chargeWatts: share.chargeWatts,
        leftForLoadsWatts: share.leftForLoadsWatts,
        overWatts: share.overWatts,
        ...(share.hoursToFull === null ? {} : { hoursToFull: share.hoursToFull }),
      },
      says: [
        { label: 'Charging draws', value: figure(share.chargeWatts, 'W', 0) },
        { label: 'Left for loads', value: figure(share.leftForLoadsWatts, 'W', 0) },
        {
          label: 'Until full',
          value: share.hoursToFull === null ? 'nothing charges' : figure(share.hoursToFull, 'h', 1),
        },
      ],
      picture: {
        kind: 'bars',
        unit: 'W',
        limit: { label: 'generator', value: generatorWatts },
        rows: [
          {
            label: 'charging',
            parts: [
              { label: 'first', value: firstAmps * batteryVolts },
              { label: 'second', value: secondAmps * batteryVolts },
            ],
          },
        ],
      },
      findings: [
        {
          rule: 'generator-share',
          level: over ? 'stop' : share.share > 0.8 ? 'hold' : 'go',
          says: over
            ? `Charging alone is ${figure(share.overWatts, 'W', 0)} too much for the generator.`
            : `Charging takes ${Math.round(share.share * 100)} % of the generator.`,
          because: `${figure(firstAmps + secondAmps, 'A', 1)} at ${voltsText(batteryVolts)} is ${figure(share.chargeWatts, 'W', 0)}.`,
          ...(over ? { remedy: 'Lower the charge current of one, or charge one after the other.' } : {}),
        },
      ],
    }
  },
}
