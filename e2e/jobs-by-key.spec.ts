import { Hand, begin, kinds, links, response, track } from './hand'
import { expect, sharing as test } from './fixtures'

/** Four of the ten jobs by keyboard alone. A key counts one, what is typed with its Enter one. */
const go = async (hand: Hand, what: string): Promise<void> => {
  await hand.key('Control+k')
  await hand.page.getByRole('combobox', { name: 'Search' }).waitFor()
  await hand.type(what)
  await expect(hand.page.getByRole('dialog')).toHaveCount(0)
}
/** To a control, and a value for it. */
const set = async (hand: Hand, control: string, text: string): Promise<void> => {
  await go(hand, control)
  await enter(hand, text)
}
/** A value for the gauge that has the focus. */
const enter = async (hand: Hand, text: string): Promise<void> => {
  await expect(hand.page.locator('[data-gauge]:focus, [data-gauge] :focus')).toBeAttached()
  await hand.key('Enter')
  await hand.type(text)
}

test('by keyboard, first principles: all-pass sums become low-pass, high-pass and shelf, seen with phase: at most 24 actions', async ({
  page,
}) => {
  const hand = await begin(page, 'Test signals')
  await hand.add('all-pass')
  await set(hand, 'order all-pass', 'first')
  await hand.key('Shift+Y')
  await expect.poll(async () => kinds(await track(page))).toEqual(['split'])
  await go(hand, 'response of chain up to')
  const [low = 0, high = 0] = await response(page, 60, 15_000)
  expect(low - high).toBeGreaterThan(20)
  await set(hand, 'polarity straight', '-1')
  const [low2 = 0, high2 = 0] = await response(page, 60, 15_000)
  expect(high2 - low2).toBeGreaterThan(20)
  await go(hand, 'response phase')
  await expect(page.getByRole('button', { name: 'Phase', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
  await set(hand, 'polarity straight', '0.5')
  const [low3 = 0, high3 = 0, higher3 = 0] = await response(page, 60, 12_000, 15_000)
  expect(low3 - high3).toBeGreaterThan(3)
  expect(Math.abs(high3 - higher3)).toBeLessThan(1)
  hand.takesAtMost(24)
})

test('by keyboard, a sine folded, its clipping seen, and three other waves: at most 26 actions', async ({
  page,
}) => {
  const hand = await begin(page, 'Test signals')
  await hand.add('folder')
  await go(hand, 'show scope')
  await hand.key('Space')
  await set(hand, 'gain folder', '24')
  await set(hand, 'makeup folder', '12')
  await expect(page.getByRole('button', { name: 'Clipped', exact: true })).toBeVisible()
  await enter(hand, '-6')
  await go(hand, 'wave test signals')
  for (const [i, wave] of ['triangle', 'saw', 'pulse'].entries()) {
    await enter(hand, wave)
    await expect.poll(async () => (await track(page)).source?.params.wave).toBe(i + 1)
  }
  hand.takesAtMost(26)
})

test('by keyboard, bass opened and ducked by the kit, several gauges at once: at most 30 actions', async ({
  page,
}) => {
  const hand = await begin(page, 'Deck kit', 'Hull bass')
  await go(hand, 'hull bass')
  await hand.add('gain')
  await hand.add('filter')
  await go(hand, 'add a follower')
  for (const control of ['resonance filter', 'drive filter']) {
    await go(hand, control)
    await expect(page.locator('[data-gauge]:focus')).toBeAttached()
    await hand.key('Shift+Space')
  }
  await hand.key('g')
  await hand.key((await track(page, 1)).modulators[0]?.letter ?? '')
  await go(hand, 'cutoff filter')
  await expect(page.locator('[data-gauge]:focus')).toBeAttached()
  await hand.key('Enter')
  await expect.poll(async () => (await links(page)).length).toBe(3)
  await go(hand, 'level gain')
  await expect(page.locator('[data-gauge]:focus')).toBeAttached()
  await hand.key('Enter')
  await hand.key('Space')
  const all = await links(page)
  expect(all.map((l) => l.target.param).sort()).toEqual(['cutoff', 'drive', 'level', 'resonance'])
  expect((await track(page, 1)).modulators[0]?.listens?.track).toBe('t0')
  const cutoff = `live:${all.find((l) => l.target.param === 'cutoff')?.target.owner}.cutoff`
  const seen = new Set<number>()
  await expect
    .poll(
      async () =>
        seen.add(Math.round(100 * (await page.evaluate((k) => globalThis.oleaje.value(k), cutoff)))).size,
    )
    .toBeGreaterThan(6)
  hand.takesAtMost(30)
})

test('by keyboard, the simulated line into overload and a filter that answers: at most 22 actions', async ({
  page,
}) => {
  const hand = await begin(page)
  await go(hand, 'add a live input')
  await go(hand, 'turn the live input')
  await hand.add('drive')
  await set(hand, 'range drive', '+20 dB')
  await hand.add('filter')
  await set(hand, 'resonance filter', '7')
  await hand.key('j')
  await enter(hand, '700')
  await hand.key('m')
  await expect(page.getByRole('menu')).toBeVisible()
  await hand.key('f')
  await hand.key('Enter')
  await expect.poll(async () => (await links(page)).map((l) => l.target.param)).toEqual(['cutoff'])
  const [link] = await links(page)
  const seen = new Set<number>()
  await expect
    .poll(
      async () =>
        seen.add(
          Math.round(
            100 *
              (await page.evaluate((k) => globalThis.oleaje.value(k), `live:${link?.target.owner}.cutoff`)),
          ),
        ).size,
    )
    .toBeGreaterThan(4)
  hand.takesAtMost(22)
})
