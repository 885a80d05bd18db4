import { isProblem } from '../../kernel'
import type { Port } from '../port'
import { askIdentity, askModbus, readIdentity, type ModbusTiming } from './client'

/** Who is on the bus. */
export interface BusScan {
  /** Addresses with one unit that answers, and the product it names. */
  found: { address: number; product?: string }[]
  /** Addresses whose answer is noise: two units share it, or speed and parity are wrong. */
  garbled: number[]
  silent: number
}

/**
 * Asks every address who it is: the count of units on the bus (PRACTICE F4). It changes nothing in any of them.
 * @param onAddress called before each address is asked.
 */
export async function scanBus(
  port: Port,
  from: number,
  to: number,
  timing: ModbusTiming,
  onAddress: (address: number) => void = () => {},
): Promise<BusScan> {
  const scan: BusScan = { found: [], garbled: [], silent: 0 }
  for (let address = from; address <= to; address++) {
    onAddress(address)
    try {
      const product = readIdentity(await askModbus(port, address, askIdentity, timing)).get(1)
      scan.found.push({ address, ...(product ? { product } : {}) })
    } catch (error) {
      if (isProblem(error, 'modbus-silent')) scan.silent++
      // It refuses, so it is there.
      else if (isProblem(error, 'modbus-exception')) scan.found.push({ address })
      else if (isProblem(error, 'modbus-frame') || isProblem(error, 'modbus-other'))
        scan.garbled.push(address)
      else throw error
    }
  }
  return scan
}
