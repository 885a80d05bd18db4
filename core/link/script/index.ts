export type { ScriptBench, ScriptEvent } from './bench'
export { checksumBits, checksumOf, checksumText } from './checksum'
export { heardText, stepText } from './failures'
export * from './frame'
export * from './page-script'
export {
  scriptAbilities,
  scriptDriver,
  scriptLoader,
  type Asked,
  type Done,
  type ScriptDriver,
} from './script-loader'
export { isCommand, scriptLikelyMs, scriptLongestMs, scriptTailMs, type ScriptTimeForm } from './script-time'
export { tryable, triedBytes, tryOperation, type Trial, type Tryable } from './try-operation'
