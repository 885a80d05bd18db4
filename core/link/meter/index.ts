export { readScpiNumber, scpiMeter, type Meter } from './scpi'
export {
  BenchMeter,
  meterOver,
  meterScript,
  meterWords,
  readBenchMeter,
  voltsField,
  type MeterWords,
} from './bench-meter'
