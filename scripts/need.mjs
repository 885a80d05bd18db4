import { execFileSync, spawnSync } from 'node:child_process'
import { existsSync, readFileSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

/** The project's folder. */
export const root = dirname(dirname(fileURLToPath(import.meta.url)))

/** Runs a command in the project's folder, its output shown; resolves with its exit code. */
export function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options })
  if (error) throw error
  return status ?? 1
}

/** An installed program; npm puts it beside the workspace that asks for it where it cannot be shared. */
export const bin = (name) => {
  const places = ['', 'web', 'server'].map((part) => join(root, part, 'node_modules', '.bin', name))
  return places.find((place) => existsSync(place)) ?? places[0]
}

/** Installs the packages of the lock file when they are missing or older than it. */
export function needPackages() {
  const mark = join(root, 'node_modules', '.package-lock.json')
  const lock = join(root, 'package-lock.json')
  if (existsSync(mark) && statSync(mark).mtimeMs >= statSync(lock).mtimeMs && sameVersions(lock, mark)) return
  console.log('Installing packages…')
  if (run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']) !== 0) {
    console.error(
      'The packages could not be installed. Check the connection to the npm registry and try again.',
    )
    process.exit(1)
  }
}

/** True when what is installed names the same versions as the lock file. */
function sameVersions(lock, mark) {
  const [wanted, there] = [lock, mark].map((file) => JSON.parse(readFileSync(file, 'utf8')).packages)
  return Object.entries(wanted).every(
    ([path, { version, optional, link }]) =>
      path === '' || optional || link || !path.startsWith('node_modules') || there[path]?.version === version,
  )
}

/** Programs the tests talk to, by the Debian package that brings each. */
const peers = {
  'chromium-headless-shell': ['chromium-headless-shell'],
  lrzsz: ['rx', 'sx'],
  mtools: ['mdir', 'mcopy', 'mformat', 'minfo', 'mmd', 'mdel'],
  socat: ['socat'],
  'python3-pymodbus': ['python:pymodbus'],
  'python3-can': ['python:can'],
  'python3-scapy': ['python:scapy'],
  binutils: ['objcopy'],
  openssl: ['openssl'],
  'util-linux': ['prlimit'],
}

/** What does as well where the first cannot be had. */
const stand = { 'chromium-headless-shell': 'chromium' }

const onPath = (program) => spawnSync('sh', ['-c', `command -v ${program}`]).status === 0
/** A package of the system's own Python, which another Python on the path may not see. */
const inPython = (name) => spawnSync('/usr/bin/python3', ['-c', `import ${name}`]).status === 0
/** Whether what a peer is needed for is there: a program on the path, or a package of Python. */
const isThere = (what) => (what.startsWith('python:') ? inPython(what.slice('python:'.length)) : onPath(what))

/** Installs the missing test peers through apt-get where that may be done, else says what to install. */
export function needPeers() {
  const missing = () =>
    Object.entries(peers)
      .filter(([, programs]) => !programs.every(isThere))
      .map(([name]) => name)
  const wanted = missing()
  if (wanted.length === 0) return
  const asRoot = process.getuid?.() === 0
  if (asRoot && onPath('apt-get')) {
    console.log(`Installing ${wanted.join(', ')}…`)
    const environment = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
    const quiet = { env: environment, stdio: ['ignore', 'ignore', 'inherit'] }
    try {
      execFileSync('apt-get', ['update', '-qq'], quiet)
    } catch {
      // An old list may still do.
    }
    const install = (...names) =>
      run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...names], quiet) === 0
    // All in one go takes half the time; where one of them cannot be had, each is tried by itself.
    if (!install(...wanted))
      for (const name of wanted) if (!install(name) && stand[name]) install(stand[name])
  }
  const still = missing().filter((name) => !stand[name] || !onPath(stand[name]))
  if (still.length > 0) {
    console.error(
      `The tests need ${still.join(', ')}: install with "sudo apt-get install ${still.join(' ')}".`,
    )
    process.exit(1)
  }
}
