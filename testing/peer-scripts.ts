/*
 * Scripts for the units of e2e/peers, each written from the unit's manual page alone.
 */

const prompt = { text: 'boot> ' }
const refusal = { text: '?{reason}\n', means: 'refused' }
export const tideGate = {
  speaks: 'script',
  operations: {
    page: {
      steps: [
        { do: 'send', text: 'ver\r' },
        {
          do: 'expect',
          patterns: [{ text: 'TG-4 board {board:dec}\nfw {version}\nserial {serial}\n' }, refusal],
          withinMs: 1000,
        },
        { do: 'tell', field: 'hardware', value: '{board}' },
        { do: 'tell', field: 'firmware', value: '{version}' },
        { do: 'expect', patterns: [{ text: '=> ' }], withinMs: 1000 },
      ],
    },
    enter: {
      steps: [
        { do: 'send', text: 'boot\r' },
        { do: 'expect', patterns: [prompt], withinMs: 2000 },
      ],
    },
    attach: {
      steps: [
        { do: 'send', text: '\r' },
        { do: 'expect', patterns: [prompt], withinMs: 500 },
      ],
    },
    identify: {
      steps: [
        { do: 'send', text: 'ver\r' },
        { do: 'page', until: [prompt], withinMs: 1000 },
      ],
    },
    erase: {
      steps: [
        { do: 'send', text: 'erase {address:hex4} {length:hex}\r' },
        {
          do: 'expect',
          patterns: [{ text: 'ok\n' }, { text: 'erased {done}/{total}\r', means: 'progress' }, refusal],
          withinMs: 20_000,
        },
        { do: 'expect', patterns: [prompt], withinMs: 1000 },
      ],
    },
    write: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 1024,
          steps: [
            { do: 'compute', into: 'sum', checksum: 'sum16', over: 'data' },
            { do: 'send', text: 'stage {length}\r' },
            { do: 'expect', patterns: [{ text: 'send\n' }, refusal], withinMs: 1000 },
            { do: 'transfer', by: 'plain' },
            { do: 'expect', patterns: [{ text: 'sum {given:hex4}' }, refusal], withinMs: 2000 },
            { do: 'send', text: 'burn {address:lhex4}\r' },
            { do: 'expect', patterns: [{ text: 'ok\n' }, refusal], withinMs: 2000 },
            { do: 'expect', patterns: [prompt], withinMs: 1000 },
          ],
        },
      ],
    },
    read: {
      steps: [
        { do: 'send', text: 'dump {address:hex} {length:hex}\r' },
        { do: 'dump', line: '{at:hex6}: {row:bytes}  |', withinMs: 1000 },
        { do: 'expect', patterns: [prompt], withinMs: 1000 },
      ],
    },
    check: {
      steps: [
        { do: 'send', text: 'crc {address:hex} {length:hex}\r' },
        { do: 'expect', patterns: [{ text: '{crc:hex4}\n' }, refusal], withinMs: 1000 },
        {
          do: 'compare',
          slot: 'crc',
          checksum: {
            name: 'CRC-16/IBM-3740',
            width: 16,
            poly: '0x1021',
            init: '0xFFFF',
            refin: false,
            refout: false,
            xorout: '0x0000',
          },
        },
      ],
    },
    start: {
      steps: [
        { do: 'send', text: 'go\r' },
        { do: 'expect', patterns: [{ text: '=> ' }], withinMs: 1000 },
      ],
    },
  },
}

const taken = { text: '.\n' }
export const lockMotor = {
  speaks: 'script',
  operations: {
    attach: {
      steps: [
        { do: 'send', text: 'i\n' },
        { do: 'expect', patterns: [{ text: 'LM2 loader' }], withinMs: 1000 },
      ],
    },
    erase: {
      steps: [
        { do: 'send', text: 'e\n' },
        { do: 'expect', patterns: [{ text: '*\n' }], withinMs: 5000 },
      ],
    },
    write: {
      steps: [
        {
          do: 'transfer',
          by: 'srec-lines',
          lineEnd: '\n',
          recordBytes: 32,
          answer: [
            taken,
            { text: '!b\n', means: 'again' },
            { text: '!c\n', means: 'again' },
            { text: '!{reason}\n', means: 'refused' },
          ],
          withinMs: 1000,
        },
      ],
    },
    start: {
      steps: [
        { do: 'send', text: 'x\n' },
        { do: 'expect', patterns: [{ text: 'bye\n' }], withinMs: 1000 },
      ],
    },
  },
}

const crcArc = {
  name: 'CRC-16/ARC',
  width: 16,
  poly: '0x8005',
  init: '0x0000',
  refin: true,
  refout: true,
  xorout: '0x0000',
}
const fails = { bytes: 'FF {reason:u8}', means: 'refused' }
const busy = { bytes: 'FE', means: 'again' }
export const craneScale = {
  speaks: 'script',
  frame: {
    layout: '{sequence:u8} {payload} {checksum:u16le}',
    escape: 'slip',
    checksum: crcArc,
    checksumOver: 'before-it',
    maxPayload: 72,
    tries: 4,
  },
  operations: {
    attach: {
      steps: [{ do: 'frame', bytes: '01', answer: [{ bytes: '81 {name:text}' }, fails], withinMs: 500 }],
    },
    identify: {
      steps: [
        { do: 'frame', bytes: '01', answer: [{ bytes: '81 {name:text}' }, fails], withinMs: 500 },
        { do: 'tell', field: 'loader', value: '{name}' },
      ],
    },
    erase: {
      steps: [
        {
          do: 'frame',
          bytes: '02 {address:u32le} {length:u32le}',
          answer: [{ bytes: '82' }, fails, busy],
          withinMs: 3000,
        },
      ],
    },
    write: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 64,
          steps: [
            {
              do: 'frame',
              bytes: '03 {address:u32le} {data}',
              answer: [{ bytes: '83' }, fails, busy],
              withinMs: 500,
            },
          ],
        },
      ],
    },
    read: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 64,
          steps: [
            {
              do: 'frame',
              bytes: '04 {address:u32le} {length:u8}',
              answer: [{ bytes: '84 {data}' }, fails],
              withinMs: 500,
            },
          ],
        },
      ],
    },
    start: { steps: [{ do: 'frame', bytes: '06', answer: [{ bytes: '86' }, fails], withinMs: 500 }] },
  },
}

const goes = { bytes: '06' }
const isNot = { bytes: '15', means: 'again' }
export const bilgePump = {
  speaks: 'script',
  operations: {
    page: {
      steps: [
        { do: 'send', text: '?\r' },
        { do: 'expect', patterns: [{ text: 'BP1 {version}\r' }], withinMs: 500 },
        { do: 'tell', field: 'firmware', value: '{version}' },
      ],
    },
    enter: {
      steps: [
        { do: 'send', text: 'update\r' },
        { do: 'expect', patterns: [{ text: '57600\r' }], withinMs: 500 },
        { do: 'speed', baudRate: 57_600 },
        { do: 'repeat', steps: [{ do: 'send', bytes: '55' }], until: [goes], everyMs: 30, times: 100 },
      ],
    },
    erase: {
      steps: [
        { do: 'send', text: 'E' },
        { do: 'expect', patterns: [goes], withinMs: 3000 },
      ],
    },
    write: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 64,
          steps: [
            { do: 'compute', into: 'sum', checksum: 'minus-sum8', over: 'data' },
            { do: 'send', bytes: '57 {address:u16be} {length:u8} {data} {sum:u8}' },
            { do: 'expect', patterns: [goes, isNot], withinMs: 500 },
          ],
        },
      ],
    },
    read: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 64,
          steps: [
            { do: 'send', bytes: '52 {address:u16be} {length:u8}' },
            { do: 'transfer', by: 'plain', withinMs: 500 },
          ],
        },
      ],
    },
    start: {
      steps: [
        { do: 'send', text: 'G' },
        { do: 'expect', patterns: [goes], withinMs: 500 },
        { do: 'speed', baudRate: 9600 },
      ],
    },
  },
}

/** Of wave_recorder.md: four lines may be under way before the first is answered. */
export const waveRecorder = {
  speaks: 'script',
  writeTries: 4,
  thinkMs: 4,
  operations: {
    attach: {
      steps: [
        { do: 'send', text: '?\r' },
        { do: 'expect', patterns: [{ text: 'WR1 loader, room 4\r' }], withinMs: 500 },
      ],
    },
    erase: {
      steps: [
        { do: 'send', text: 'e {address:hex4} {length:hex4}\r' },
        { do: 'expect', patterns: [{ text: 'e\r' }], withinMs: 3000 },
      ],
    },
    write: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: 32,
          ahead: 4,
          steps: [
            { do: 'send', text: 'w {address:hex4} {data:hex}\r' },
            {
              do: 'expect',
              patterns: [
                { text: 'w {address:hex4}\r' },
                { text: 'b {address:hex4}\r', means: 'again' },
                { text: 'x {reason}\r', means: 'refused' },
              ],
              withinMs: 300,
            },
          ],
        },
      ],
    },
    check: {
      steps: [
        { do: 'send', text: 'c {address:hex4} {length:hex4}\r' },
        { do: 'expect', patterns: [{ text: 'c {found:hex8}\r' }], withinMs: 2000 },
        { do: 'compare', slot: 'found', checksum: 'crc32' },
      ],
    },
    start: {
      steps: [
        { do: 'send', text: 'g\r' },
        { do: 'expect', patterns: [{ text: 'go\r' }], withinMs: 1000 },
      ],
    },
  },
}
