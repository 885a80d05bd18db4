import { existsSync } from 'node:fs'

/** Debian's Chromium: the one without a window where it is installed, for it starts and draws faster. */
export const chromiumPath =
  process.env['CHROMIUM'] ??
  ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'].find((path) => existsSync(path))!
