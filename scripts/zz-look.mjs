import { chromium } from 'playwright-core'
import { ensureBuilt } from '/work/main/scripts/build.mjs'
import { findChromium, flags } from '/work/main/scripts/chromium.mjs'
import { serve } from '/work/main/scripts/serve.mjs'
await ensureBuilt()
const server = await serve(4661, true)
const browser = await chromium.launch({ executablePath: findChromium(), args: flags })
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
page.on('pageerror', (e) => console.log('PAGEERROR', e.message))
page.on('console', (m) => { if (m.type() === 'error') console.log('CONSOLE', m.text()) })
try {
  await page.goto('http://127.0.0.1:4661/')
  await page.waitForFunction(() => globalThis.oleaje.project() !== null)
  await page.keyboard.press('p')
  await page.getByRole('button', { name: /ways of time/ }).first().click()
  await page.waitForFunction(() => globalThis.oleaje.project()?.id === 'time-studies')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await page.waitForTimeout(5000)
  const unmute = async (t) => { await page.getByRole('button', { name: new RegExp('^(Mute|Unmute) ' + t) }).first().click().catch((e) => console.log(e.message.slice(0,100))) }
  const pick = async (track, node, name, wait = 3000) => {
    await page.getByRole('button', { name: new RegExp(`^${track}`) }).first().click()
    await unmute(track)
    if (node) await page.locator(`[data-node="${node}"]`).click().catch((e) => console.log(track, e.message.slice(0, 200)))
    await page.waitForTimeout(wait)
    await page.screenshot({ path: `/tmp/look-${name}.png` })
    await unmute(track)
  }
  for (const [t, n, f] of JSON.parse(process.argv[2])) await pick(t, n, f)
  console.log('load', await page.evaluate(() => globalThis.oleaje.live()))
} catch (e) { console.log(e.message.slice(0, 500)) ; await page.screenshot({ path: '/tmp/look-error.png' }) } finally { await browser.close(); server.kill() }
