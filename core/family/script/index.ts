export * from './template'
export * from './pattern'
export * from './link-script-faults'
export * from './ready-line'
