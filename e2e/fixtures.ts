import { expect as plain, test as base } from '@playwright/test'

interface Options {
  /**
   * Whether the engine works through each project unheard before it plays. That takes some three seconds of
   * processor time at each opening, and matters only to tests that judge the first seconds of sound.
   */
  rehearsal: boolean
}

/**
 * Tests of the page. Those that judge lateness, floods, memory or recording are tagged {@link alone} and have
 * the machine to themselves.
 */
export const test = base.extend<Options>({
  rehearsal: [false, { option: true }],
  context: async ({ context, rehearsal }, use) => {
    if (!rehearsal)
      await context.addInitScript(() => {
        try {
          localStorage.setItem('oleaje.rehearses', 'false')
        } catch {
          /* site data is blocked */
        }
      })
    await use(context)
  },
})

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
