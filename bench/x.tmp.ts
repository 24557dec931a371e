import { chromium } from 'playwright-core'
import { editsInApp } from './src/edits-in-app'
import { takenByHost } from './src/host-time'
import { findChromium, flags } from '../scripts/chromium.mjs'
const t0 = takenByHost()
const browser = await chromium.launch({ executablePath: findChromium(), args: flags })
for (const e of await editsInApp(browser)) console.log(e.id.padEnd(12), String(e.rounds).padStart(3), (e.worst * 100).toFixed(0).padStart(5), (e.median * 100).toFixed(0).padStart(5), e.missed, e.missedByHost)
console.log('steal', takenByHost() - t0)
await browser.close()
