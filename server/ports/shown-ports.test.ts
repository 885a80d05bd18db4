import { chmodSync, writeFileSync } from 'node:fs'
import { delimiter, join } from 'node:path'
import { expect, it } from 'vitest'
import { scratchFolder } from '../server.test-support'
import { Ports } from './ports'

// What a Linux system says of its devices (systemd, udevadm(8), `info --export-db`); others are asked another way.
it.runIf(process.platform === 'linux')(
  'a long list of the system’s ports is narrowed to those that are named, and what a setting adds stays',
  async () => {
    const folder = scratchFolder()
    const devices = ['ttyS4', 'ttyUSB0', 'ttyUSB1'].map(
      (name) => `P: /devices/${name}\nN: ${name}\nE: DEVNAME=/dev/${name}\n`,
    )
    writeFileSync(join(folder, 'udevadm'), `#!/bin/sh\ncat <<'END'\n${devices.join('\n')}\nEND\n`)
    chmodSync(join(folder, 'udevadm'), 0o755)
    const before = process.env['PATH']
    process.env['PATH'] = `${folder}${delimiter}${before}`
    try {
      const serialOf = async (shown: string[]) =>
        (await new Ports(new Map(), undefined, ['/dev/pts/odd'], shown).list(() => undefined))
          .filter(({ kind }) => kind === 'serial')
          .map(({ name }) => name)
      expect(await serialOf([])).toEqual(['/dev/ttyS4', '/dev/ttyUSB0', '/dev/ttyUSB1', '/dev/pts/odd'])
      expect(await serialOf(['ttyUSB'])).toEqual(['/dev/ttyUSB0', '/dev/ttyUSB1', '/dev/pts/odd'])
      expect(await serialOf(['none'])).toEqual(['/dev/pts/odd'])
    } finally {
      process.env['PATH'] = before
    }
  },
)
