import { mkdtempSync, readFileSync, readdirSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { codeName } from '@oleaje/core/chain-module/chain-export'
import { audioHash } from '@oleaje/core/formats/hash'
import { readWav, writeWav } from '@oleaje/core/formats/wav'
import type { Project } from '@oleaje/core/project/schema'
import { readProject } from '@oleaje/core/project/read'
import { planRender, render } from '@oleaje/core/render/render'
import { unzipSync } from 'fflate'
import { inBarePage, served, throughChain } from '../bare-page'
import { type Driver, sleep } from './driver'

/** One step of the journey, and what was seen; a step that fails throws. */
export interface Seen {
  readonly step: string
  readonly seen: string
}

const SECONDS = 4
const RATE = 48_000

/** A sum over the bits of samples, the same in the page and here (FNV-1a; Fowler, Noll, Vo 1991). */
const SUM = `(floats) => { const w = new Uint32Array(floats.buffer); let h = 0x811c9dc5; for (let i = 0; i < w.length; i++) h = Math.imul(h ^ w[i], 0x01000193); return h >>> 0 }`
const sum = (0, eval)(SUM) as (floats: Float32Array) => number

/** What the command line renders of the demo's first seconds, as a sum of its bits. */
export async function renderedSum(assets: string): Promise<number> {
  const project = readProject(readFileSync(join(assets, 'night-ferry.json'), 'utf8'))
  const wavs = readdirSync(assets).filter((n) => n.endsWith('.wav'))
  const sounds = new Map(
    await Promise.all(
      wavs.map(async (n) => {
        const wav = readWav(readFileSync(join(assets, n)))
        return [await audioHash(wav), wav] as const
      }),
    ),
  )
  const both = new Float32Array(2 * SECONDS * RATE)
  let at = 0
  for (const { channels, done } of render(
    planRender(project, { from: 0, to: SECONDS + 1, tail: 0 }),
    (h) => sounds.get(h) ?? null,
  )) {
    for (let i = 0; at + i < done && at + i < SECONDS * RATE; i++) {
      both[2 * (at + i)] = channels[0][i] ?? 0
      both[2 * (at + i) + 1] = channels[1][i] ?? 0
    }
    at = done
  }
  return sum(both)
}

/** The open project as text, whatever order its keys have. */
const SORTED = `JSON.stringify(oleaje.project(), (_, v) => (v && typeof v === 'object' && !Array.isArray(v) ? Object.fromEntries(Object.entries(v).sort(([a], [b]) => (a < b ? -1 : 1))) : v))`

/**
 * Drives one browser through the whole way from the demo to a file. @throws Error with the step that fails
 */
export async function journey(
  b: Driver,
  url: string,
  wanted: number,
  told: (seen: Seen) => void,
  short = false,
): Promise<void> {
  const until = async <T>(what: string, expression: string, seconds = 30): Promise<T> => {
    for (let k = 0; k < seconds * 5; k++) {
      const found = await b.evaluate<T>(expression).catch(() => undefined)
      if (found) return found
      await sleep(200)
    }
    const alerts = await b
      .evaluate<string>(`[...document.querySelectorAll('[role=alert]')].map((e) => e.textContent).join(' ')`)
      .catch(() => '')
    throw new Error(`${what} (waited ${seconds} s) ${alerts.slice(0, 200)}`)
  }
  const click = async (name: string): Promise<void> => {
    const place = await until<{ x: number; y: number }>(
      `no button “${name}”`,
      `(() => { const e = [...document.querySelectorAll('button, nav a, [role=menuitem], [role=option]')].find((e) => (e.getAttribute('aria-label') ?? e.textContent).trim() === ${JSON.stringify(name)} && e.getClientRects().length > 0); if (!e) return null; const r = e.getBoundingClientRect(); return { x: r.x + r.width / 2, y: r.y + r.height / 2 } })()`,
    )
    await b.clickAt(place.x, place.y)
  }
  const type = async (text: string): Promise<void> => {
    for (const letter of text) await b.press(letter)
  }
  const closed = (): Promise<unknown> =>
    until(
      'a dialog stays open',
      `document.querySelectorAll('[role=dialog], [role=combobox][aria-label=Search]').length === 0`,
    )
  const find = async (what: string, closes = true): Promise<void> => {
    await b.press('k', true)
    await until('nothing to search in', `document.activeElement?.getAttribute('role') === 'combobox'`)
    await type(what)
    await b.press('ArrowDown')
    await b.press('Home')
    await b.press('Enter')
    if (closes) await closed()
  }
  const ready = `document.documentElement.dataset.keys === 'heard' && globalThis.oleaje?.project() !== null && /saved/.test(document.querySelector('[data-testid=save-state]')?.textContent ?? '') && performance.getEntriesByName('first-contentful-paint').length >= 0`

  await b.goto(url)
  await until('the app does not open', ready, 60)
  await sleep(1000)
  told({ step: 'opens', seen: await b.evaluate(`oleaje.project().name`) })

  await click('Play')
  const lufs = await until<number>(
    'no level on the meters',
    `(() => { const m = document.body.innerText.match(/([−-]?\\d+\\.\\d) LUFS/); const v = m ? Number(m[1].replace('−', '-')) : NaN; return v > -45 && v < -3 ? v : 0 })()`,
    40,
  )
  told({ step: 'plays', seen: `${lufs} LUFS` })
  await click('Stop')

  const captured = await b.evaluate<number>(
    `oleaje.capture(0, ${(SECONDS + 1) * RATE}).then(({ left, right, latency }) => { const both = new Float32Array(${2 * SECONDS * RATE}); for (let i = 0; i < ${SECONDS * RATE}; i++) { both[2 * i] = left[i + latency]; both[2 * i + 1] = right[i + latency] } return (${SUM})(both) })`,
  )
  if (captured !== wanted) throw new Error(`the ${SECONDS} seconds that were captured differ from the render`)
  told({ step: 'sounds as rendered', seen: 'equal bit for bit' })
  if (short) return

  await find('New project')
  await until('no new project', `oleaje.project().name === 'Untitled'`)
  await find('Add a track: test signals')
  await until('no tone track', `oleaje.project().tracks.length === 2`)
  await b.press('a')
  await until('nothing to choose an effect in', `document.activeElement?.getAttribute('role') === 'combobox'`)
  await type('gain')
  await b.press('ArrowDown')
  await b.press('Home')
  await b.press('Enter')
  await until('no effect', `oleaje.project().tracks[0].a.nodes.length === 1`)
  await closed()
  await b.press('j')
  await b.press('Tab')
  await until(
    'the gauge has no focus',
    `/^Level, Gain/.test(document.activeElement?.getAttribute('aria-label') ?? '')`,
  )
  await b.press('m')
  // until then the gauge would take the arrow keys
  await until(
    'the gauge offers no modulator',
    `!/^Level, Gain/.test(document.activeElement?.getAttribute('aria-label') ?? '')`,
  )
  for (
    let k = 0;
    k < 30 && !(await b.evaluate<boolean>(`/new LFO/.test(document.activeElement?.textContent ?? '')`));
    k++
  )
    await b.press('ArrowDown')
  await b.press('Enter')
  await until('no link', `oleaje.project().links.length === 1`)
  await click('Play')
  await until('it does not play', `oleaje.live().beat > 0.1`)
  const moved = await b.evaluate<number>(
    `new Promise((resolve) => { const seen = []; const key = 'live:' + oleaje.project().links[0].target.owner + '.level'; const timer = setInterval(() => { seen.push(oleaje.value(key)); if (seen.length > 80) { clearInterval(timer); resolve(Math.max(...seen) - Math.min(...seen)) } }, 25) })`,
  )
  if (!(moved > 0.01)) throw new Error(`the link does not move its gauge: ${moved}`)
  told({ step: 'links an LFO that moves', seen: `${(100 * moved).toFixed(0)} % of the gauge` })
  await click('Stop')

  const before = await b.evaluate<string>(SORTED)
  await until(
    'it is not saved',
    `/^saved/.test(document.querySelector('[data-testid=save-state]').textContent.trim())`,
  )
  await b.goto(url)
  await until('the app does not open again', ready, 60)
  if ((await b.evaluate<string>(SORTED)) !== before) throw new Error('after a reload the project is another')
  await sleep(500)
  told({ step: 'is all there after a reload', seen: `${before.length} characters` })

  const tone = Float32Array.from({ length: 20_011 }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 311 * i) / RATE))
  const wav = Buffer.from(writeWav({ sampleRate: RATE, channels: [tone] }, 24)).toString('base64')
  const dropped = (name: string, onto: string): Promise<unknown> =>
    b.evaluate(
      `(() => { const t = new DataTransfer(); t.items.add(new File([Uint8Array.from(atob('${wav}'), (c) => c.charCodeAt(0))], '${name}')); document.querySelector('${onto}').dispatchEvent(new DragEvent('drop', { dataTransfer: t, bubbles: true, cancelable: true })) })()`,
    )

  await find('Open or close What matters')
  await click('Measure')
  const weighed = await until<number>(
    'nothing is measured of what matters',
    `document.querySelector('[aria-label="What matters"] [data-measure]').textContent.trim() === 'Measure' && document.querySelectorAll('[aria-label=Contributions] [role=row]').length`,
    60,
  )
  await click('Close What matters')
  told({ step: 'says what matters', seen: `${weighed} parts` })

  await find('Try-outs')
  await until('the view does not come', `location.pathname.startsWith('/try-outs')`)
  await sleep(1000)
  await click('Match…')
  await until('nothing to match', `document.querySelector('[aria-label=Match]') !== null`)
  await dropped('wanted.wav', '[aria-label=Match]')
  // the header has a button of that name too
  await until(
    'no search to begin',
    `(() => { const e = [...document.querySelectorAll('[aria-label=Match] button:not(:disabled)')].find((e) => e.textContent.trim() === 'Search'); e?.click(); return e !== undefined })()`,
  )
  const tries = await until<string>(
    'the search comes no nearer',
    `(() => {
      const text = document.querySelector('[aria-label=Match] [role=status]').textContent
      const [, first, now] = text.match(/tries: ([\\d.]+) dB at first, now ([\\d.]+)/) ?? []
      return now !== undefined && Number(now) < Number(first) ? text : undefined
    })()`,
    90,
  )
  await click('Stop')
  await until('no match is shown', `/Match 1, /.test(document.querySelector('main').textContent)`, 60)
  told({ step: 'steers a chain towards a sound', seen: tries })
  await click('Bench')

  await dropped('rope.wav', 'main')
  await until('the file becomes no track', `oleaje.project().tracks.length === 3`)
  told({
    step: 'takes a WAV file',
    seen: await b.evaluate(`Object.values(oleaje.project().audio)[0].frames + ' frames'`),
  })

  await b.evaluate(
    `(() => { const make = URL.createObjectURL; URL.createObjectURL = (blob) => { window.savedBlob = blob; return make.call(URL, blob) } })()`,
  )
  await click('Render')
  await click('Render to WAV')
  const size = await until<number>('no file is rendered', `window.savedBlob?.size ?? 0`, 90)
  const head = await b.evaluate<string>(`savedBlob.slice(0, 4).text()`)
  if (head !== 'RIFF') throw new Error(`what was rendered is no WAV file: ${head}`)
  told({ step: 'renders WAV', seen: `${(size / 1e6).toFixed(1)} MB` })
  await click('WAV')
  await click('FLAC')
  await b.evaluate(`(() => { window.savedBlob = null })()`)
  await click('Render to FLAC')
  const flac = await until<number>('no FLAC file is rendered', `window.savedBlob?.size ?? 0`, 90)
  const mark = await b.evaluate<string>(`savedBlob.slice(0, 4).text()`)
  if (mark !== 'fLaC') throw new Error(`what was rendered is no FLAC file: ${mark}`)
  await b.press('Escape')
  const tracks = await b.evaluate<number>(`oleaje.project().tracks.length`)
  await b.evaluate(
    `(() => { const t = new DataTransfer(); t.items.add(new File([savedBlob], 'back.flac')); document.querySelector('main').dispatchEvent(new DragEvent('drop', { dataTransfer: t, bubbles: true, cancelable: true })) })()`,
  )
  await until('what was rendered is not read back', `oleaje.project().tracks.length === ${tracks + 1}`)

  told({ step: 'renders FLAC and reads it back', seen: `${(flac / 1e6).toFixed(1)} MB` })

  await b.press('z', true)
  await until('undo does nothing', `oleaje.project().tracks.length === ${tracks}`)
  told({ step: 'undoes', seen: 'as before' })

  await click('Lab')
  await click('Frequency response')
  const gain = await until<string>(
    'nothing is measured',
    `document.querySelector('[aria-label=Figures] td')?.textContent.trim()`,
  )
  told({ step: 'measures a chain', seen: `highest gain ${gain}` })

  await b.evaluate(`(() => { window.savedBlob = null })()`)
  await find('Export the chain for web pages', false)
  await click('Export')
  await until('no module is saved', `window.savedBlob?.size ?? 0`, 60)
  const whole = await b.evaluate<Project>(`oleaje.project()`)
  const exported = await b.evaluate<{ zip: string }>(
    `savedBlob.arrayBuffer().then((bytes) => ({ zip: btoa(Array.from(new Uint8Array(bytes), (c) => String.fromCharCode(c)).join('')) }))`,
  )
  const files = unzipSync(new Uint8Array(Buffer.from(exported.zip, 'base64')))
  const folder = mkdtempSync(join(tmpdir(), 'oleaje-module-'))
  for (const [name, bytes] of Object.entries(files)) writeFileSync(join(folder, name), bytes)
  const module = Object.keys(files).find((name) => name.endsWith('.js')) ?? ''
  const track = whole.tracks.find((t) => codeName(t.name) === module.replace('.js', ''))?.id ?? ''
  const bare = await served(folder)
  await b.goto(bare.url)
  const { left } = await b.evaluate<{ left: number[] }>(inBarePage(module, null))
  bare.close()
  const chain = throughChain(whole, track)
  const different = left.filter((v, i) => v !== chain[i]).length
  if (different > 0 || left.length < 40_000)
    throw new Error(`${different} samples of the exported chain differ`)
  told({ step: 'plays the exported chain in a bare page', seen: 'equal bit for bit' })
}
