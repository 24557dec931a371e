/** Finds Chromium, or installs it where that can be done. */
import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { delimiter, join } from 'node:path'
import { fail, run, say } from './deps.mjs'

export const flags =
  '--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-component-update --disable-sync --autoplay-policy=no-user-gesture-required'.split(
    ' ',
  )

function look() {
  const named = process.env.CHROMIUM_PATH
  if (named && existsSync(named)) return named
  for (const name of ['chromium', 'chromium-browser', 'google-chrome', 'google-chrome-stable']) {
    for (const folder of (process.env.PATH ?? '').split(delimiter))
      if (existsSync(join(folder, name))) return join(folder, name)
  }
  return undefined
}

export function findChromium() {
  const found = look()
  if (found) return found
  if (process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    say('installing Chromium and fonts (apt-get)')
    try {
      run('apt-get', ['update', '-qq'])
      run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium', 'fonts-dejavu-core'], {
        DEBIAN_FRONTEND: 'noninteractive',
      })
    } catch {
      fail('Chromium could not be installed with apt-get; its reason stands above.')
    }
    const now = look()
    if (now) return now
  }
  return fail(
    'Chromium is needed for the browser tests and benchmarks: install it, or set CHROMIUM_PATH to it.',
  )
}

/** First line of `chromium --version`. */
export const chromiumVersion = (path) => execFileSync(path, ['--version'], { encoding: 'utf8' }).trim()

/**
 * The oldest Chromium that Debian's archives hold, unpacked beside the installed one; its audio threads flush
 * denormal numbers to zero. Null where it cannot be had.
 */
export function olderChromium() {
  const folder = join(tmpdir(), 'oleaje-browsers', 'chromium-older')
  const path = join(folder, 'usr/lib/chromium/chromium')
  if (existsSync(path)) return path
  if (!existsSync('/usr/bin/apt-get') || process.getuid?.() !== 0) return null
  try {
    const list = () => execFileSync('apt-cache', ['madison', 'chromium'], { encoding: 'utf8' })
    // a fresh machine knows of no packages yet
    if (!list().includes('chromium')) execFileSync('apt-get', ['update', '-qq'], { stdio: 'ignore' })
    const listed = list()
    const versions = listed.split('\n').map((line) => line.split('|')[1]?.trim() ?? '')
    const version = versions
      .filter(Boolean)
      .sort((a, b) => Number.parseInt(a, 10) - Number.parseInt(b, 10))[0]
    if (!version) return null
    say(`fetching an older Chromium, ${version} (apt-get)`)
    mkdirSync(folder, { recursive: true })
    const packages = [`chromium=${version}`, `chromium-common=${version}`]
    execFileSync('apt-get', ['download', '-qq', ...packages], {
      cwd: folder,
      stdio: ['ignore', 'ignore', 'ignore'],
    })
    for (const file of readdirSync(folder).filter((name) => name.endsWith('.deb'))) {
      execFileSync('dpkg', ['-x', file, '.'], { cwd: folder })
      rmSync(join(folder, file))
    }
  } catch {
    return null
  }
  return existsSync(path) ? path : null
}
