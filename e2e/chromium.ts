import { existsSync } from 'node:fs'

/** Debian's Chromium: the one without a window where it is installed, for it starts and draws faster. */
const chromiumPath =
  process.env['CHROMIUM'] ??
  ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'].find((path) => existsSync(path))!

/** How it is started. */
export const launchForm = {
  executablePath: chromiumPath,
  args: [
    '--no-sandbox',
    // A page starts in half the time without the process that others are forked from.
    '--no-zygote',
    '--in-process-gpu',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
}

/** How a page is opened: nothing moves that a test would only wait for; movement itself is asked for where it is tested. */
export const pageForm = { viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' } as const
