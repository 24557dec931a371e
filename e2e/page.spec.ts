import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { drop, open, project, serious } from './app'
import { alone, expect, test as own, sharing as test } from './fixtures'

// the other palette is held by app/test/palette.test.ts; here it is seen whole once
test('axe finds nothing serious on the Bench, by day and by night', async ({ page }) => {
  await open(page)
  await page.getByRole('button', { name: /^Slow tide/ }).click()
  await page.getByRole('button', { name: 'Link from Slow tide' }).first().click()
  expect(await serious(page)).toEqual([])
  await page.keyboard.press('n')
  expect(await serious(page, { colours: true })).toEqual([])
})

for (const [view, key] of [
  ['Links', 'k'],
  ['Timeline', 't'],
  ['Shelf', 'f'],
  ['Render', 'r'],
] as const) {
  test(`axe finds nothing serious on ${view}`, async ({ page }) => {
    await open(page)
    await page.keyboard.press('u')
    await page.keyboard.press(key)
    await expect(page.getByRole('region', { name: view, exact: true })).toBeVisible()
    expect(await serious(page)).toEqual([])
  })
}

test('axe finds nothing serious in the guide and in menus, by day and by night', async ({ page }) => {
  await open(page)
  await page.keyboard.press('F1')
  await expect(page.locator('[data-region=guide] article')).toContainText('walk-throughs')
  await page.getByRole('searchbox', { name: 'Search the guide' }).fill('snare')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-region=guide] article').locator('img')).toBeVisible()
  expect(await serious(page, { within: 'aside' })).toEqual([])
  await page.keyboard.press('Escape')
  await expect(page.getByRole('complementary', { name: 'Guide' })).toHaveCount(0)
  for (const button of [
    'Help',
    'Project',
    'Actions for Filter',
    'Actions for Fog pad',
    'Add modulator',
    'Presets',
  ]) {
    await page.getByRole('button', { name: button, exact: true }).first().click()
    await page.getByRole('menu').waitFor()
    expect(await serious(page, { within: '[role=menu]' }), button).toEqual([])
    await page.keyboard.press('n')
    await page.keyboard.press('Escape')
  }
  await page.keyboard.press('n')
  await page.keyboard.press('F1')
  await expect(page.locator('[data-region=guide] article')).toBeVisible()
  expect(await serious(page, { within: 'aside', colours: true })).toEqual([])
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Help' }).click()
  expect(await serious(page, { within: '[role=menu]', colours: true })).toEqual([])
})

test('the guide finds its pages by their words, and links lead from one to the next', async ({ page }) => {
  await open(page)
  await page.getByRole('button', { name: 'Help' }).click()
  await page.getByRole('menuitem', { name: /^Guide/ }).click()
  const article = page.locator('[data-region=guide] article')
  await article.getByRole('link', { name: 'A cloud of sixteen taps' }).click()
  await expect(article.getByRole('heading', { level: 1 })).toHaveText('A cloud of sixteen taps')
  expect(
    await article
      .locator('img')
      .evaluate((img: HTMLImageElement) => img.decode().then(() => img.naturalWidth)),
  ).toBe(1280)
  await page.getByRole('searchbox', { name: 'Search the guide' }).fill('howl')
  const found = page.getByRole('navigation', { name: 'Pages of the guide' })
  await found.getByRole('button', { name: /howl tamed/ }).click()
  await expect(article.getByRole('heading', { level: 1 })).toContainText('howl')
  // it stays open beside the work
  await page.keyboard.press('t')
  await expect(article).toBeVisible()
})

test('axe finds nothing serious in the dialogs', async ({ page }) => {
  test.slow()
  await open(page)
  for (const key of ['a', 'p', 'Shift+?', 'Control+k', 'Shift+F']) {
    await page.keyboard.press(key)
    // its own box is empty: what is in it lies fixed over the page
    await page.getByRole('dialog').waitFor({ state: 'attached' })
    expect(await serious(page, { within: '[role=dialog]' }), key).toEqual([])
    await page.keyboard.press('Escape')
    await expect(page.getByRole('dialog')).toHaveCount(0)
  }
})

test('nothing leaves the machine', async ({ page }) => {
  const outside: string[] = []
  page.on('request', (r) => {
    const { hostname, protocol } = new URL(r.url())
    if (!['127.0.0.1', 'localhost'].includes(hostname) && !/^(data|blob):/.test(protocol))
      outside.push(r.url())
  })
  await open(page)
  await page.keyboard.press('Space')
  await expect.poll(() => page.evaluate(() => globalThis.oleaje.live().blocks)).toBeGreaterThan(500)
  expect(outside).toEqual([])
})

own(
  'keys are heard from the first moment on, also within the time in which a letter after G means a modulator',
  async ({ page }) => {
    // the clock of the page stands still, so that all that happens is in its first moments
    await page.addInitScript(() => {
      performance.now = () => 100
    })
    await open(page)
    await page.keyboard.press('k')
    await expect(page.getByRole('region', { name: 'Links' })).toBeVisible()
    await page.keyboard.press('b')
    await page.keyboard.press('g')
    await page.keyboard.press('a')
    await expect(page.getByText(/drag on a gauge from the minimum/)).toBeVisible()
  },
)

test('keys do not fire while someone types, and every key has its line in the list', async ({ page }) => {
  await open(page)
  await page.getByRole('textbox', { name: 'Project name' }).fill('')
  await page.keyboard.type('a calm sea x l')
  await expect(page.getByRole('dialog')).toHaveCount(0)
  await expect(page.getByRole('button', { name: /^Filter, on/ })).toBeVisible()
  await page.keyboard.press('Tab')
  await page.keyboard.press('Shift+?')
  await expect(page.getByRole('dialog')).toContainText('Play or stop')
  // all of it is reached by scrolling down
  const list = page.getByRole('group', { name: 'Keys' })
  expect(await list.evaluate((el) => el.scrollWidth - el.clientWidth)).toBe(0)
  await list.getByText('rename a section').scrollIntoViewIfNeeded()
  await expect(list.getByText('rename a section')).toBeInViewport()
})

test('what each track and effect costs can be seen while it plays, and a line leads to what it speaks of', async ({
  page,
}) => {
  await open(page)
  await page.keyboard.press('Space')
  await page.getByTitle('Shows CPU by track and effect').click()
  const panel = page.getByLabel('CPU and output')
  const line = panel.getByRole('button', { name: /^Reverb/ })
  await expect(line).toBeVisible({ timeout: 15_000 })
  const share = async (name: RegExp): Promise<number> =>
    Number.parseFloat(
      (await panel.getByRole('button', { name }).first().innerText()).split('\n').at(-1) ?? '',
    )
  await expect.poll(() => share(/^Reverb/)).toBeGreaterThan(0.2)
  expect(await share(/^Fog pad/)).toBeGreaterThan(await share(/^Reverb/))
  expect(await serious(page)).toEqual([])
  await line.click()
  await expect(page.getByRole('textbox', { name: 'Name', exact: true })).toHaveValue('Reverb')
  // of a muted track that is not looked at, only the clocks of its modulators go on once it has rung out
  const delays = panel.getByRole('button', { name: /^Delay/ })
  const before = await delays.count()
  await page.getByRole('button', { name: 'Mute Rope guitar' }).click()
  // a click elsewhere has closed the list
  await expect(panel).toHaveCount(0)
  await page.getByTitle('Shows CPU by track and effect').click()
  await expect(delays).toHaveCount(before - 1, { timeout: 40_000 })
})

own(
  'an engine that has too much to do for two seconds says what costs most and offers what helps; nothing is done unasked',
  alone,
  async ({ page }) => {
    const track = newTrack('Fog horn', newSource('tone'), 'horn')
    track.a.nodes = Array.from({ length: 19 }, (_, i) =>
      newEffect('pitch', { quality: 1, second: 1, pitch: 3 }, `shift-${i}`),
    )
    track.a.nodes.push(newEffect('folder', { quality: 4, folds: 8 }, 'dear'))
    const heavy = newProject('Skerries')
    heavy.tracks.unshift(track)
    await open(page)
    await drop(page, 'skerries.json', Buffer.from(JSON.stringify(heavy)))
    await expect(page.getByRole('textbox', { name: 'Project name' })).toHaveValue('Skerries')
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    const notice = page.getByRole('status').filter({ hasText: 'is overloaded' })
    await expect(notice).toContainText(/on Fog horn uses most CPU: \d+ % of a core/)
    expect((await project(page)).tracks[0]?.a.nodes.every((n) => (n.params.on ?? 1) === 1)).toBe(true)
    await notice.getByRole('button', { name: 'Bypass', exact: true }).click()
    await expect
      .poll(async () => (await project(page)).tracks[0]?.a.nodes.filter((n) => n.params.on === 0).length)
      .toBe(1)
    await notice.getByRole('button', { name: 'Render the track' }).click()
    await expect(page.getByRole('form', { name: 'Order' })).toContainText('Fog horn, through the mix')
    await page.keyboard.press('b')
    await page.getByRole('button', { name: 'Stop', exact: true }).click()
    await expect(notice).toHaveCount(0)
  },
)

for (const late of [47, 311])
  own(
    `keys pressed in one go find the focus where each has led, with pictures ${late} ms late`,
    async ({ page }) => {
      await page.addInitScript((ms) => {
        const draw = window.requestAnimationFrame.bind(window)
        window.requestAnimationFrame = (f) => window.setTimeout(() => draw(f), ms)
      }, late)
      await open(page)
      const keys = async (...all: string[]): Promise<void> => {
        for (const key of all) await page.keyboard.press(key)
      }
      const add = async (what: string): Promise<void> => {
        await page.keyboard.press('a')
        await page.getByRole('combobox', { name: 'Search' }).waitFor()
        await page.keyboard.type(what)
        await keys('ArrowDown', 'Home', 'Enter')
      }
      const nodes = async (): Promise<Record<string, number>[]> =>
        ((await project(page)).tracks.find((t) => t.id === 'pad')?.a.nodes ?? []).flatMap((n) =>
          n.kind === 'effect' && n.type === 'gain' ? [n.params] : [],
        )
      const before = (await nodes()).length
      await add('gain')
      await keys('j', 'Tab', 'Enter')
      await page.keyboard.type('-7dB')
      await keys('Enter', 'm')
      await expect(page.getByRole('menuitem').first()).toBeFocused()
      await keys('Escape', 'ArrowRight')
      await expect(page.getByRole('slider', { name: 'Level, Gain' })).toBeFocused()
      await expect.poll(async () => (await nodes()).at(-1)?.level).toBeGreaterThan(-7)
      // what was just added is what the next key removes
      await add('gain')
      await keys('Delete')
      await expect.poll(async () => (await nodes()).length).toBe(before + 1)
      // a macro's field takes what is typed at once, and gives the focus back
      const macro = page.getByRole('slider', { name: 'Macro Haze' })
      await macro.focus()
      await keys('Enter')
      await page.keyboard.type('37')
      await keys('Enter', 'ArrowUp')
      await expect(macro).toBeFocused()
      await expect(macro).toHaveAttribute('aria-valuenow', '38')
    },
  )

test('what is added beside the selection, or in its place, is added once and undone in one step', async ({
  page,
}) => {
  await open(page)
  const kinds = async (): Promise<string[]> =>
    ((await project(page)).tracks.find((t) => t.id === 'pad')?.a.nodes ?? []).map((n) =>
      n.kind === 'effect' ? n.type : `${n.kind} ${n.kind === 'split' ? n.branches.length : ''}`,
    )
  const before = await kinds()
  for (const [keys, after] of [
    ['Shift+Enter', ['split 2', ...before.slice(1)]],
    ['Alt+Enter', ['chorus', ...before.slice(1)]],
    ['Enter', [before[0], 'chorus', ...before.slice(1)]],
  ] as const) {
    await page.getByRole('button', { name: /^Filter, on/ }).click()
    await page.keyboard.press('a')
    await page.getByRole('combobox', { name: 'Search' }).fill('chorus')
    await page.keyboard.press(keys)
    await expect.poll(kinds).toEqual(after)
    await page.keyboard.press('Control+z')
    await expect.poll(kinds).toEqual(before)
  }
  // with a preset of its own, chosen by key
  await page.getByRole('button', { name: /^Filter, on/ }).click()
  await page.keyboard.press('a')
  await page.getByRole('combobox', { name: 'Search' }).fill('chorus')
  await page.keyboard.press('Alt+ArrowDown')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('group', { name: 'Presets' })).toContainText('Choir in the hold')
})

test('a preset beside the results is chosen by a click, by Tab or by Alt with an arrow, and added', async ({
  page,
}) => {
  await open(page)
  const levels = async (): Promise<number[]> =>
    ((await project(page)).tracks.find((t) => t.id === 'pad')?.a.nodes ?? []).flatMap((n) =>
      n.kind === 'effect' && n.type === 'gain' ? [n.params.level ?? NaN] : [],
    )
  const before = await levels()
  const preset = page.getByRole('dialog').getByRole('button', { name: /^Half as loud/ })
  const search = async (): Promise<void> => {
    await page.keyboard.press('a')
    await page.getByRole('combobox', { name: 'Search' }).waitFor()
    await page.keyboard.type('gain')
    await expect(preset).toHaveAttribute('aria-pressed', 'false')
  }
  await search()
  await preset.click()
  await page.getByRole('button', { name: 'Add with “Half as loud”' }).click()
  await expect.poll(levels).toEqual([...before, -10])
  await page.keyboard.press('Control+z')
  await expect.poll(levels).toEqual(before)
  await search()
  await page.keyboard.press('Tab')
  await expect(preset).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(preset).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'Add with “Half as loud”' }).press('Enter')
  await expect.poll(levels).toEqual([...before, -10])
  await page.keyboard.press('Control+z')
  await expect.poll(levels).toEqual(before)
  await search()
  for (const key of ['Alt+ArrowDown', 'Alt+ArrowDown', 'Alt+ArrowDown', 'Alt+ArrowUp', 'Alt+ArrowUp'])
    await page.keyboard.press(key)
  await expect(preset).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('Enter')
  await expect.poll(levels).toEqual([...before, -10])
})

test('the whole list scrolls down and not sideways; pointer and keys move one highlight', async ({
  page,
}) => {
  await page.setViewportSize({ width: 1280, height: 521 })
  await open(page)
  const list = page.getByRole('listbox', { name: 'Results' })
  const option = page.getByRole('option')
  for (const key of ['Control+k', 'a']) {
    await page.keyboard.press(key)
    await expect(option.nth(7)).toBeVisible()
    expect(await list.evaluate((e) => e.scrollWidth - e.clientWidth)).toBe(0)
    await option.nth(2).hover()
    await option.nth(3).hover()
    await expect(option.nth(3)).toHaveAttribute('aria-selected', 'true')
    await page.keyboard.press('End')
    await expect(option.last()).toHaveAttribute('aria-selected', 'true')
    await expect(option.last()).toBeInViewport({ ratio: 0.9 })
    await page.keyboard.press('PageUp')
    await expect(option.nth(-9)).toHaveAttribute('aria-selected', 'true')
    await expect(page.getByRole('option', { selected: true })).toHaveCount(1)
    await page.keyboard.press('Escape')
    await expect(page.getByRole('dialog')).toHaveCount(0)
  }
})

test('keys that arrive in one go choose what slow ones choose', async ({ page }) => {
  await open(page)
  const added = async () => {
    const nodes = (await project(page)).tracks[0]?.a.nodes ?? []
    return nodes.flatMap((n) => (n.kind === 'effect' && n.type === 'gain' ? [n.params] : []))
  }
  const add = async (press: (keys: readonly string[]) => Promise<void>) => {
    await page.keyboard.press('a')
    await page.getByRole('combobox', { name: 'Search' }).fill('gain')
    await expect(page.getByRole('option').nth(3)).toBeVisible()
    await press(['ArrowDown', 'ArrowDown', 'ArrowDown', 'ArrowUp', 'Enter'])
    await expect.poll(async () => (await added()).length).toBe(1)
    const [params] = await added()
    await page.keyboard.press('Control+z')
    await expect.poll(async () => (await added()).length).toBe(0)
    return params
  }
  await page
    .getByRole('button', { name: /^Deck kit/ })
    .first()
    .click()
  const search = page.getByRole('combobox', { name: 'Search' })
  const slow = await add(async (keys) => {
    const places = [1, 2, 3, 2]
    for (const [n, key] of keys.entries()) {
      await page.keyboard.press(key)
      if (places[n] === undefined) continue
      const there = page.getByRole('option').nth(places[n])
      await expect(there).toHaveAttribute('aria-selected', 'true')
      await expect(search).toHaveAttribute('aria-activedescendant', (await there.getAttribute('id')) ?? '')
    }
  })
  expect(slow).not.toMatchObject({ mode: 0, level: 0 })
  // all in one frame
  const quick = await add((keys) =>
    page.evaluate((all) => {
      for (const key of all)
        document.activeElement?.dispatchEvent(
          new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }),
        )
    }, keys),
  )
  expect(quick).toEqual(slow)
})

test('fields of the loop refuse what makes none, and say why; a branch is selected by its name', async ({
  page,
}) => {
  await open(page)
  const loop = async () => (await project(page)).loop
  const end = page.getByRole('textbox', { name: 'Loop end in bars' })
  await end.fill('1')
  await end.press('Enter')
  await expect(page.getByRole('alert')).toContainText('The loop starts at bar 1')
  expect((await loop()).end).toBe(16)
  await end.fill('3.25')
  await end.press('Enter')
  await expect.poll(loop).toMatchObject({ start: 0, end: 9 })
  // the next key is a shortcut again
  await page.keyboard.press('l')
  await expect.poll(async () => (await loop()).on).toBe(false)
  await page
    .getByRole('button', { name: /^Deck kit/ })
    .first()
    .click()
  const branch = page
    .getByLabel('Chart')
    .getByRole('button', { name: /^Branch/ })
    .first()
  await branch.click()
  await expect(branch).toHaveAttribute('aria-current', 'true')
  const said = page.getByRole('status').filter({ hasText: 'Monitoring branch' })
  await expect(said).toHaveCount(0)
  await page.keyboard.press('s')
  await expect(said).toBeVisible()
})

test('Space plays after a view was gone to by its link, as links leave that key alone', async ({ page }) => {
  await open(page)
  await page.getByRole('link', { name: /^Links/ }).click()
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
})

test('nothing is cut and the page itself never scrolls, from 1100 to 2560 px, on every view', async ({
  page,
}) => {
  await open(page)
  await page.keyboard.press('Space')
  for (const [width, height] of [
    [1100, 720],
    [1280, 800],
    [1920, 1080],
    [2560, 1440],
  ] as const) {
    await page.setViewportSize({ width, height })
    for (const key of ['b', 't', 'k']) {
      await page.locator('body').press(key)
      await expect(
        page.getByRole('link', { name: { b: 'Bench', t: 'Timeline', k: /^Links/ }[key] }),
      ).toHaveAttribute('aria-current', 'page')
      await expect
        .poll(
          () =>
            page.evaluate(() => [
              document.documentElement.scrollWidth - innerWidth,
              document.documentElement.scrollHeight - innerHeight,
            ]),
          `${width} px, ${key}`,
        )
        .toEqual([0, 0])
      // what is written on buttons, in heads and fields of the page can be read whole
      const cut = await page.evaluate(() =>
        Array.from(document.querySelectorAll<HTMLElement>('button, [role=columnheader], label, h2, input'))
          .filter((el) => {
            const box = el.getBoundingClientRect()
            if (box.width < 2 || el.closest('.sr-only') || getComputedStyle(el).visibility === 'hidden')
              return false
            return (
              box.left < -1 ||
              box.right > innerWidth + 1 ||
              (el.scrollWidth > el.clientWidth + 1 &&
                el.tagName !== 'INPUT' &&
                el.clientWidth > 0 &&
                getComputedStyle(el).overflowX === 'hidden')
            )
          })
          .map((el) => el.textContent?.trim() || el.getAttribute('aria-label')),
      )
      expect(cut, `${width} px, ${key}`).toEqual([])
    }
  }
})

test('Tab goes through the Bench in the order of the eye, each stop is seen, and less motion is kept to where it is asked for', async ({
  page,
}) => {
  await open(page)
  const stops: { place: string; ring: boolean; name: string }[] = []
  for (let i = 0; i < 260; i++) {
    await page.keyboard.press('Tab')
    const stop = await page.evaluate(() => {
      const el = document.activeElement as HTMLElement
      if (el === document.body) return null
      const s = getComputedStyle(el)
      const box = el.closest('header, section, footer')
      return {
        place: el.closest('.splitpanes__splitter')
          ? 'divider'
          : el.closest('main > header')
            ? 'header'
            : (el
                .closest<HTMLElement>('section[aria-label], aside[aria-label]')
                ?.getAttribute('aria-label') ??
              box?.tagName ??
              ''),
        ring: s.outlineStyle !== 'none' || s.boxShadow !== 'none',
        name: el.getAttribute('aria-label') ?? el.textContent?.trim().slice(0, 30) ?? '',
      }
    })
    if (!stop) break
    stops.push(stop)
  }
  expect(stops.filter((s) => !s.ring).map((s) => `${s.place}: ${s.name}`)).toEqual([])
  const order = stops
    .map((s) => s.place)
    .filter((p) => p !== 'divider')
    .filter((p, i, all) => p !== all[i - 1])
  expect(order).toEqual([
    'header',
    'Tracks',
    'First steps',
    'Chart',
    'Selected effect',
    'Macros and modulators',
    'FOOTER',
    'Transport',
    'Pane 1',
    'Pane 2',
  ])
  await page.emulateMedia({ reducedMotion: 'reduce' })
  expect(
    await page.evaluate(
      () =>
        Array.from(document.querySelectorAll('*')).filter((el) => {
          const s = getComputedStyle(el)
          return [...s.transitionDuration.split(','), ...s.animationDuration.split(',')].some(
            (d) => parseFloat(d) > 0.001,
          )
        }).length,
    ),
  ).toBe(0)
})

own(
  'an effect that ran away on a track that is not shown is named on every view, shown, and let sound again',
  async ({ page }) => {
    // the message of the engine, as its guard sends it
    await page.addInitScript(() => {
      const Node = globalThis.AudioWorkletNode
      globalThis.AudioWorkletNode = class extends Node {
        constructor(...made: ConstructorParameters<typeof Node>) {
          super(...made)
          Object.assign(globalThis, {
            tell: (data: unknown) => this.port.onmessage?.(new MessageEvent('message', { data })),
          })
        }
      }
    })
    await open(page)
    await page.waitForFunction(() => 'tell' in globalThis)
    const { tracks } = await project(page)
    const other = tracks.find((t) => t.id !== 'pad' && t.a.nodes[0]?.kind === 'effect')!
    const node = other.a.nodes[0]!.id
    const said = page.getByRole('alert').filter({ hasText: 'became unstable' })
    for (const key of ['t', 'k', 'b']) {
      await page.locator('body').press(key)
      await page.evaluate(
        (id) =>
          (globalThis as unknown as { tell: (m: unknown) => void }).tell({
            type: 'tripped',
            key: `node:${id}`,
          }),
        node,
      )
      await expect(said).toContainText(other.name)
      if (key === 'k') {
        await said.getByRole('button', { name: 'Go to it' }).click()
        await expect(page).toHaveURL(/\/$/)
        await expect(page.locator(`[data-node="${node}"]`).first()).toBeVisible()
      }
      await said.getByRole('button', { name: 'Resume' }).click()
      await expect(said).toHaveCount(0)
    }
  },
)
