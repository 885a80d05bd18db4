import { usualKinds, type CaseAgreementForm } from './agreement'

/** The channels that nearly every calibrator asks for, by drive; names are changed to those of the logger. */
const usualChannels = {
  combustion: [
    { name: 'Engine speed', unit: 'rpm', role: 'speed' },
    { name: 'Load', unit: '%', role: 'load' },
    { name: 'Lambda', unit: 'lambda', role: 'mixture' },
    { name: 'Knock', unit: '', role: 'knock' },
    { name: 'Supply', unit: 'V', role: 'supply' },
    { name: 'Coolant temperature', unit: '°C', role: 'temperature' },
  ],
  electric: [
    { name: 'Motor speed', unit: 'rpm', role: 'speed' },
    { name: 'Pedal', unit: '%', role: 'load' },
    { name: 'Motor current', unit: 'A', role: 'other' },
    { name: 'Supply', unit: 'V', role: 'supply' },
    { name: 'Motor temperature', unit: '°C', role: 'temperature' },
  ],
} as const satisfies Record<'combustion' | 'electric', CaseAgreementForm['channels']>

/** What must not happen at load with each drive (common practice); figures are the calibrator's to change. */
const usualLimits = {
  combustion: [
    {
      channel: 'Lambda',
      max: 0.95,
      when: { channel: 'Load', min: 80 },
      seconds: 0.2,
      says: 'It ran lean under load',
    },
    {
      channel: 'Knock',
      max: 3,
      when: { channel: 'Load', min: 50 },
      seconds: 0,
      says: 'It knocked under load',
    },
  ],
  electric: [{ channel: 'Motor temperature', max: 105, seconds: 1, says: 'The motor ran hot' }],
} as const satisfies Record<'combustion' | 'electric', CaseAgreementForm['limits']>

/** A case to begin with: the usual channels, kinds and limits of the drive. */
export function beginAgreement(drive: 'combustion' | 'electric'): CaseAgreementForm {
  const load = drive === 'combustion' ? 'Load' : 'Pedal'
  return {
    title: '',
    goal: '',
    calibrator: '',
    drive,
    ...(drive === 'combustion' ? { fuel: 'petrol' } : {}),
    parts: [],
    channels: [...usualChannels[drive]],
    kinds: usualKinds(load),
    limits: [...usualLimits[drive]],
    floorVolts: null,
    aim: null,
  }
}

/** Breakpoints as a person types them: `0 500 1000; 1500`. Null where one is no figure or they do not rise. */
export function breakpointsIn(text: string): number[] | null {
  const points = text
    .split(/[\s;]+/)
    .filter(Boolean)
    .map((each) => Number(each.replace(',', '.')))
  const rises = points.every((point, index) => index === 0 || point > points[index - 1]!)
  return points.length > 0 && points.every(Number.isFinite) && rises ? points : null
}

/** Channels from a list as it comes in a message: one a line, its unit in brackets. */
export function channelsIn(text: string): CaseAgreementForm['channels'] {
  return text
    .split(/[\r\n;]+/)
    .map((line) => line.trim().replace(/^[-*•\d.)\s]+(?=\p{L})/u, ''))
    .filter(Boolean)
    .map((line) => {
      const [, name, unit] = /^(.*?)\s*[[(]([^\])]*)[\])]\s*$/.exec(line) ?? [null, line, '']
      return { name: name!, unit: unit!, role: roleOf(name!) }
    })
}

/** What a channel most likely is, by its name; a person changes it. */
function roleOf(name: string): NonNullable<CaseAgreementForm['channels'][number]['role']> {
  if (/speed|rpm|revs/i.test(name)) return 'speed'
  if (/lambda|afr|wideband|mixture/i.test(name)) return 'mixture'
  if (/knock/i.test(name)) return 'knock'
  if (/load|pedal|throttle|boost/i.test(name)) return 'load'
  if (/volt|supply|battery/i.test(name)) return 'supply'
  if (/temp/i.test(name)) return 'temperature'
  if (/switch|clutch|brake|fan/i.test(name)) return 'switch'
  return 'other'
}
