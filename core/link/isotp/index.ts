export * from './frames'
export * from './isotp'
