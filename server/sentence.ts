import { isProblem } from '@bench-wake/core/kernel'
import { databaseTrouble } from './db/trouble'

/** Why the program does not start, in one sentence with the way out. */
export function sentenceOf(error: unknown): string {
  const known = isProblem(error) ? error : databaseTrouble(error)
  if (known) return known.message
  const { code, message, path, port, address } = error as NodeJS.ErrnoException & {
    port?: number
    address?: string
  }
  switch (code) {
    case 'EADDRINUSE':
      return `Port ${port ?? ''} is taken. Bench Wake may be running already; else set PORT to another number.`
    case 'EADDRNOTAVAIL':
      return `This computer has no address ${address ?? ''}. Set BENCH_WAKE_HOST to one that it has.`
    case 'ENOTFOUND':
      return 'The name in BENCH_WAKE_HOST is not known here. Set it to an address of this computer.'
    case 'EACCES':
    case 'EPERM':
      return port === undefined
        ? `${path ?? 'The data folder'} may not be written. Give your account the right to, or set BENCH_WAKE_DATA to another folder.`
        : `Port ${port} needs more rights. Set PORT to a number above 1023.`
    case 'EROFS':
      return `${path ?? 'The data folder'} is on a disk that cannot be written. Set BENCH_WAKE_DATA to another folder.`
    case 'ENOTDIR':
    case 'EEXIST':
      return `${path ?? 'The data folder'} is no folder. Set BENCH_WAKE_DATA to one.`
    case 'ENOSPC':
      return 'The disk is full. Free some space on the disk of the data folder, then start again.'
    default:
      return `Bench Wake cannot start: ${message}`
  }
}
