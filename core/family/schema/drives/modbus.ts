import * as v from 'valibot'
import type { Fault } from '../../fault'
import { amount, slug, whole } from '../fields'
import type { DriveForm } from './drive-form'
import { pageOf, shownAs } from './page'

const ModbusDrive = v.strictObject({
  speaks: v.literal('modbus'),
  address: whole('The unit’s address on the bus', 1),
  page: pageOf({
    register: whole('First holding register'),
    count: whole('Registers', 1),
    as: shownAs,
  }),
  registers: v.strictObject({
    state: whole('What the unit is at: firmware, loader, at work, fault'),
    command: whole('Takes the commands; not asked for where they are coils'),
    progress: v.exactOptional(whole('Two registers: sectors done, sectors in all')),
    address: whole('Two registers: where the command begins'),
    length: whole('Two registers: how far it goes'),
    checksum: v.exactOptional(whole('Two registers: CRC-32 of the last check')),
  }),
  wordOrder: v.exactOptional(
    v.pipe(
      v.picklist(['high-first', 'low-first']),
      v.description('Order of the two registers of a value; the high word first where nothing is said'),
    ),
  ),
  states: v.exactOptional(
    v.pipe(
      v.strictObject({
        firmware: whole('Runs its firmware'),
        loader: whole('Waits in its loader'),
        atWork: whole('Carries out a command'),
        fault: whole('Its loader reports a fault'),
      }),
      v.description('Values of the state register; 0 to 3 in this order where nothing is said'),
    ),
  ),
  commandsAre: v.exactOptional(
    v.pipe(
      v.picklist(['values', 'values-in-block', 'coils']),
      v.description(
        'How a command is given: its value into the command register (function 06, where nothing is said), the same as a block (function 16), or its coil switched on (function 05)',
      ),
    ),
  ),
  commands: v.strictObject({
    enter: whole('Firmware to loader'),
    erase: whole('Erase the range'),
    check: v.exactOptional(whole('Compute the CRC-32 of the range')),
    start: whole('Start the firmware'),
    write: v.exactOptional(whole('Program the block at the address; wanted with `block`')),
    read: v.exactOptional(whole('Put the memory at the address into the block')),
  }),
  files: v.exactOptional(
    v.pipe(
      v.array(v.strictObject({ component: slug('Component'), first: whole('Its first file of records', 1) })),
      v.minLength(1),
      v.description('The image goes as file records (functions 20 and 21)'),
    ),
  ),
  block: v.exactOptional(
    v.pipe(
      v.strictObject({
        register: whole('First of the registers that hold a piece of the image'),
        words: v.pipe(
          whole('Registers of a piece', 1),
          v.maxValue(512, 'A piece has 512 registers at the most'),
        ),
      }),
      v.description(
        'The image goes in pieces of plain registers in place of file records, each programmed by the command `write`',
      ),
    ),
  ),
  timing: v.exactOptional(
    v.strictObject({
      answerMs: v.exactOptional(amount('Longest wait for an answer, ms; 1000 where nothing is said')),
      pauseMs: v.exactOptional(amount('Rest between two questions, ms')),
      busyMs: v.exactOptional(
        amount('Longest that one command, or a unit that says it is busy, is waited for, ms; 120 000'),
      ),
    }),
  ),
})

/** An image goes by file records or by blocks of registers; and what is compared has a register to say so. */
function checkModbus(drive: v.InferOutput<typeof ModbusDrive>, place: string, fault: Fault): void {
  const { files, block, commands, registers } = drive
  if (!files && !block)
    fault(`${place}.files`, 'Say how the image goes: as `files` of records, or by a `block` of registers')
  if (files && block) fault(`${place}.block`, 'Either `files` or a `block`, not both')
  if (block && commands.write === undefined)
    fault(`${place}.commands.write`, 'A block is programmed by a command: say its value')
  if ((commands.check === undefined) !== (registers.checksum === undefined))
    fault(`${place}.registers.checksum`, 'A check has a command and a register for its checksum, or neither')
}

/** Registers and file records on an RS-485 bus. */
export const modbus = {
  schema: ModbusDrive,
  protocol: 'modbus-rtu',
  kinds: ['rs485'],
  line: true,
  check: checkModbus,
} satisfies DriveForm<typeof ModbusDrive>
