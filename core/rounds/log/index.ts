export * from './log'
export * from './clock-time'
export { sniffCsv, type CsvDialect } from './dialect'
export * from './csv-log'
