import { join } from 'node:path'
import { olderChromium } from '../scripts/chromium.mjs'
import { chromium } from './browsers/driver'
import { type Seen, journey, renderedSum } from './browsers/journey'
import { expect, test } from './fixtures'

/**
 * The older Chromium flushes denormal numbers on the thread of the sound, which the current one does not. It
 * comes from Debian's archives, so that this test is there where they can be reached; all other browsers are
 * tried by `npm run test:browsers`.
 */
const older = olderChromium()
// a browser of its own is started, and twelve seconds are captured and rendered
test.setTimeout(240_000)
if (older)
  test('in the older Chromium the demo sounds as it is rendered, bit for bit', async ({ baseURL }) => {
    const browser = await chromium(older)
    const seen: Seen[] = []
    try {
      const wanted = await renderedSum(join(import.meta.dirname, '../demo/assets'))
      await journey(browser, baseURL ?? '', wanted, (step) => seen.push(step), true)
    } finally {
      await browser.close()
    }
    expect(seen.map((s) => s.step)).toEqual(['opens', 'plays', 'sounds as rendered'])
  })
else console.log('· there is no older Chromium here: its journey is left to npm run test:browsers')
