import type { DfuFunction } from '.'

/** What a usual device says of its update mode (DFU 1.1, table 4.2). */
export const usualFunction: DfuFunction = {
  canDownload: true,
  canUpload: true,
  manifestationTolerant: true,
  willDetach: true,
  detachMs: 1000,
  transferBytes: 1024,
  version: 0x0110,
}
