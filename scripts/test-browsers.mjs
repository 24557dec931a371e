/**
 * `npm run test:browsers [-- NAME …]`: the journey of e2e/browsers in five browsers, which are installed with
 * apt where that can be done.
 */
import { spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ensureBuilt } from './build.mjs'
import { olderChromium } from './chromium.mjs'
import { fail, root, run, say } from './deps.mjs'
import { endWith } from './end-with.mjs'
import { serve } from './serve.mjs'

const PORT = 4655
const PACKAGES = [
  'chromium',
  'firefox-esr',
  'webkit2gtk-driver',
  'xvfb',
  'pulseaudio',
  'gstreamer1.0-plugins-good',
  'gstreamer1.0-plugins-base',
  'gstreamer1.0-pulseaudio',
  'fonts-dejavu-core',
]
const needed = ['/usr/bin/firefox-esr', '/usr/bin/WebKitWebDriver', '/usr/bin/Xvfb', '/usr/bin/pulseaudio']

await ensureBuilt()
if (needed.some((path) => !existsSync(path))) {
  if (process.getuid?.() !== 0 || !existsSync('/usr/bin/apt-get'))
    fail(`These Debian packages are needed: ${PACKAGES.join(' ')}.`)
  say('installing browsers (apt-get)')
  run('apt-get', ['update', '-qq'])
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...PACKAGES], {
    DEBIAN_FRONTEND: 'noninteractive',
  })
}
const older = olderChromium()
if (!older) fail('The older Chromium could not be fetched from Debian’s archives.')
// Firefox runs no audio clock without a device: a null sink is one
const runtime = join(tmpdir(), 'oleaje-browsers', 'runtime')
mkdirSync(runtime, { recursive: true, mode: 0o700 })
process.env.XDG_RUNTIME_DIR = runtime
spawnSync('pulseaudio', [
  '-D',
  '--exit-idle-time=-1',
  '-n',
  '-L',
  'module-null-sink sink_name=null',
  '-L',
  'module-native-protocol-unix',
])
const server = await serve(PORT, true)
const args = [
  'scripts/run-ts.mjs',
  'e2e/browsers/main.ts',
  `http://127.0.0.1:${PORT}`,
  older,
  ...process.argv.slice(2),
]
const child = spawn(process.execPath, args, { cwd: root, stdio: 'inherit' })
endWith(child)
child.on('exit', (code) => {
  server.kill()
  process.exit(code ?? 1)
})
