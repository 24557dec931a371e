import { type BrowserContext, type Page, expect as plain, test as base } from '@playwright/test'

interface Options {
  /**
   * Whether the engine works through each project unheard before it plays. That takes some three seconds of
   * processor time at each opening, and matters only to tests that judge the first seconds of sound.
   */
  rehearsal: boolean
}

const withoutRehearsal = (context: BrowserContext): Promise<unknown> =>
  context.addInitScript(() => {
    try {
      localStorage.setItem('oleaje.rehearses', 'false')
    } catch {
      /* site data is blocked */
    }
  })

/**
 * Tests of the page, each in a browser profile of its own. Those that judge lateness, floods, memory or
 * recording are tagged {@link alone} and have the machine to themselves.
 */
export const test = base.extend<Options>({
  rehearsal: [false, { option: true }],
  context: async ({ context, rehearsal }, use) => {
    if (!rehearsal) await withoutRehearsal(context)
    await use(context)
  },
})

interface Shared {
  /** One page for all tests of a worker, with what it has loaded and compiled. */
  sharedPage: Page
}

/**
 * Tests that need no profile of their own: the page is the one that the test before had, emptied and loaded
 * anew. That is a third of the processor time of a page in a new profile. Nothing may be told to it that
 * outlasts a load, so no init scripts.
 */
export const sharing = base.extend<object, Shared>({
  sharedPage: [
    async ({ browser }, use) => {
      const context = await browser.newContext()
      await withoutRehearsal(context)
      await use(await context.newPage())
      await context.close()
    },
    { scope: 'worker' },
  ],
  page: async ({ sharedPage, baseURL, viewport }, use) => {
    await emptied(sharedPage, baseURL ?? '')
    if (viewport) await sharedPage.setViewportSize(viewport)
    await use(sharedPage)
  },
})

/** Leaves what a test has loaded, stored, routed and pressed. */
async function emptied(page: Page, address: string): Promise<void> {
  const context = page.context()
  for (const other of context.pages()) if (other !== page) await other.close()
  await page.evaluate(() => {
    if (location.origin !== 'null') sessionStorage.clear()
  })
  await page.goto('about:blank')
  await page.unrouteAll({ behavior: 'ignoreErrors' })
  for (const key of ['Shift', 'Control', 'Alt', 'Meta']) await page.keyboard.up(key)
  await page.mouse.move(0, 0)
  await page.emulateMedia({ media: null, colorScheme: null, reducedMotion: null, forcedColors: null })
  const session = await context.newCDPSession(page)
  await session.send('Storage.clearDataForOrigin', {
    origin: new URL(address).origin,
    storageTypes: 'local_storage,indexeddb,cache_storage,file_systems',
  })
  await session.detach()
}

export const alone = { tag: '@alone' }

/**
 * As Playwright's, but what is polled is looked at again soon: its own waits between two looks grow to a
 * second.
 */
export const expect: typeof plain = new Proxy(plain, {
  get: (all, name, self) => (name === 'poll' ? soon : (Reflect.get(all, name, self) as unknown)),
})
const soon: typeof plain.poll = (actual, options) =>
  plain.poll(actual, {
    intervals: [20, 40, 60, 100, 150],
    ...(typeof options === 'string' ? { message: options } : options),
  })
