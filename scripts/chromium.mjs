/** Finds Chromium, or installs it where that can be done. */
import { execFileSync } from 'node:child_process'
import { existsSync } from 'node:fs'
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
    for (const folder of (process.env.PATH ?? '').split(delimiter)) if (existsSync(join(folder, name))) return join(folder, name)
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
  return fail('Chromium is needed for the browser tests and benchmarks: install it, or set CHROMIUM_PATH to it.')
}

/** First line of `chromium --version`. */
export const chromiumVersion = (path) => execFileSync(path, ['--version'], { encoding: 'utf8' }).trim()
