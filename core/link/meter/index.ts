export { readScpiNumber, scpiMeter, type Meter } from './scpi'
export { BenchMeter, meterOver, readBenchMeter, voltsField } from './bench-meter'
