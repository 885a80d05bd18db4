import { generatorShare, judgeGeneratorShare } from '../generator'
import { field, figure, type Sum } from '../sum'

/** The calculator of this: its questions, its answer and its picture. */
export const generatorShareSum: Sum = {
  id: 'generator-share',
  name: 'Inverters on one generator',
  source:
    'Charger amps are amps at battery volts: 10 A at 48 V is 480 W into the battery (common practice); out of the generator more, by the charger’s efficiency.',
  fields: [
    field('generatorWatts', 'Generator', 'watts', '1 kW', 1),
    field('batteryVolts', 'Battery', 'volts', '48 V', 1, 1000),
    field('firstAmps', 'Charge current, first inverter', 'amps', '10 A'),
    field('secondAmps', 'Second inverter', 'amps', '0 A'),
    field('efficiency', 'Efficiency of the charger', 'percent', '90 %', 1, 100),
    field('wattHours', 'To go into the battery', 'watt-hours', '10 kWh'),
  ],
  puts: ({ generatorWatts, firstAmps, secondAmps, efficiency }) => ({
    generator: {
      watts: generatorWatts!,
      chargeAmps: [firstAmps!, ...(secondAmps ? [secondAmps] : [])],
      efficiency: efficiency!,
    },
  }),
  work(values) {
    const { generatorWatts, batteryVolts, firstAmps, secondAmps, efficiency, wattHours } = values as Record<
      'generatorWatts' | 'batteryVolts' | 'firstAmps' | 'secondAmps' | 'efficiency' | 'wattHours',
      number
    >
    const form = {
      generatorWatts,
      batteryVolts,
      chargeAmps: [firstAmps, secondAmps],
      wattHours,
      efficiency: efficiency / 100,
    }
    const share = generatorShare(form)
    const finding = judgeGeneratorShare(form)
    return {
      numbers: {
        ...finding.numbers,
        generatorWatts,
        firstAmps,
        secondAmps,
        efficiency: form.efficiency,
      },
      says: [
        { label: 'Out of the generator', value: figure(share.drawnWatts, 'W', 0) },
        { label: 'Into the battery', value: figure(share.chargeWatts, 'W', 0) },
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
              { label: 'first', value: (firstAmps * batteryVolts) / form.efficiency },
              { label: 'second', value: (secondAmps * batteryVolts) / form.efficiency },
            ],
          },
        ],
      },
      findings: [finding],
    }
  },
}
