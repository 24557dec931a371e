import { chainResponse } from '@oleaje/core/analysis/chain-response'
import { addAudioTrack, addTrack } from '@oleaje/core/project/chain-edits'
import { apply } from '@oleaje/core/project/edit'
import { newProject, newSource, newTrack } from '@oleaje/core/project/new'
import type { Project, Track } from '@oleaje/core/project/schema'
import { heardChain } from '@oleaje/core/project/walk'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Locator, Page } from '@playwright/test'
import { expect, test } from './fixtures'
import { open, project } from './app'

/**
 * A hand at the page that counts what it does: a click, a drag, a key and a typed value (with the Enter that
 * ends it) are one action each.
 */
export class Hand {
  actions = 0
  constructor(readonly page: Page) {}

  /** Holds the count of actions to a limit, and notes it in the report. */
  takesAtMost(most: number): void {
    test.info().annotations.push({ type: 'actions', description: `${this.actions} of ${most}` })
    expect(this.actions, 'actions').toBeLessThanOrEqual(most)
  }

  async click(what: Locator, options: Parameters<Locator['click']>[0] = {}): Promise<void> {
    await what.click(options)
    this.actions++
  }
  button(name: string | RegExp, exact = true): Promise<void> {
    return this.click(this.page.getByRole('button', { name, exact }).first())
  }
  async key(key: string): Promise<void> {
    await this.page.keyboard.press(key)
    this.actions++
  }
  /** Types where the focus is, and ends with Enter. */
  async type(text: string): Promise<void> {
    await this.page.keyboard.type(text)
    await this.page.keyboard.press('Enter')
    this.actions++
  }

  /** Holds the pointer down on something for as long as `until` takes. */
  async hold(what: Locator, until: () => Promise<unknown>): Promise<void> {
    await what.hover()
    await this.page.mouse.down()
    await until()
    await this.page.mouse.up()
    this.actions++
  }

  gauge(name: string | RegExp): Locator {
    return this.page.getByRole('slider', { name }).first()
  }
  /** Presses a gauge at a part of its length. */
  async press(name: string | RegExp, part: number, modifiers: ('Shift' | 'Alt')[] = []): Promise<void> {
    const box = await this.boxOf(this.gauge(name))
    await this.click(this.gauge(name), { position: { x: box.width * part, y: box.height / 2 }, modifiers })
  }
  /** Drags over a gauge from one part of its length to another: with a modulator in hand, its range. */
  drag(name: string | RegExp, from: number, to: number): Promise<void> {
    return this.dragOn(this.gauge(name), [from, 0.5], [to, 0.5])
  }
  async dragOn(what: Locator, from: [number, number], to: [number, number]): Promise<void> {
    const box = await this.boxOf(what)
    const { mouse } = this.page
    await mouse.move(box.x + box.width * from[0], box.y + box.height * from[1])
    await mouse.down()
    await mouse.move(
      box.x + (box.width * (from[0] + to[0])) / 2,
      box.y + (box.height * (from[1] + to[1])) / 2,
      { steps: 4 },
    )
    await mouse.move(box.x + box.width * to[0], box.y + box.height * to[1], { steps: 2 })
    await mouse.up()
    this.actions++
  }
  private async boxOf(what: Locator): Promise<{ x: number; y: number; width: number; height: number }> {
    await what.scrollIntoViewIfNeeded()
    const box = await what.boundingBox()
    if (!box) throw new Error('It is not drawn.')
    return box
  }

  /** Types a value into a gauge: a press on its number, and the value. */
  async value(label: string, text: string): Promise<void> {
    await this.click(this.page.getByTitle(`Type a value for ${label}`, { exact: true }).first())
    await this.type(text)
  }
  /** Adds an effect behind what is selected. */
  async add(name: string): Promise<void> {
    await this.key('a')
    await this.page.getByRole('combobox', { name: 'Search' }).waitFor()
    await this.type(name)
    await expect(this.page.getByRole('dialog')).toHaveCount(0)
  }
  async addModulator(kind: string): Promise<void> {
    await this.click(this.page.getByRole('button', { name: 'Add modulator' }))
    await this.click(this.page.getByRole('menuitem', { name: kind, exact: true }))
  }
  async addMacro(): Promise<void> {
    await this.click(
      this.page
        .getByRole('region', { name: 'Macros and modulators' })
        .getByRole('button', { name: 'Add', exact: true })
        .first(),
    )
  }
  /** Chooses from the menu of what is selected. */
  async menu(item: string): Promise<void> {
    await this.click(
      this.page
        .locator('[data-region=effect]')
        .getByRole('button', { name: /^Actions for/ })
        .last(),
    )
    await this.click(this.page.getByRole('menuitem', { name: item }))
  }
  node(name: string | RegExp): Promise<void> {
    return this.click(this.page.getByLabel('Chart').getByRole('button', { name }).first())
  }
  async choose(label: string | RegExp, option: string): Promise<void> {
    await this.click(this.page.getByRole('button', { name: label }).first())
    await this.click(this.page.getByRole('option', { name: option, exact: true }))
  }
}

const catalogue = JSON.parse(
  readFileSync(join(import.meta.dirname, '../demo/assets/catalogue.json'), 'utf8'),
) as {
  sounds: { title: string; hash: string; frames: number; channels: number; sampleRate?: number }[]
}

/** A project whose tracks loop shipped sounds, or play test signals, with nothing in their chains. */
export async function begin(page: Page, ...sounds: string[]): Promise<Hand> {
  let p: Project = newProject('Skerries')
  for (const [i, title] of sounds.entries()) {
    const sound = catalogue.sounds.find((s) => s.title === title)
    p = apply(
      p,
      sound
        ? addAudioTrack(
            title,
            newSource('loop', { tempo: 96 }, sound.hash),
            sound.hash,
            { name: title, frames: sound.frames, channels: sound.channels, sampleRate: 48_000 },
            `t${i}`,
          )
        : addTrack(newTrack(title, newSource('tone'), `t${i}`)),
    ).next
  }
  await open(page, p)
  await expect(page.getByRole('textbox', { name: 'Project name' })).toHaveValue('Skerries')
  return new Hand(page)
}
export const track = async (page: Page, i = 0): Promise<Track> => (await project(page)).tracks[i] as Track
export const kinds = (t: Track): string[] =>
  heardChain(t).nodes.map((n) => (n.kind === 'effect' ? n.type : n.kind))
export const links = async (page: Page) => (await project(page)).links

/** Magnitude in dB of the chain of the first track at some frequencies, as the document has it. */
export async function response(page: Page, ...hz: number[]): Promise<number[]> {
  const r = chainResponse(heardChain(await track(page)).nodes, 48_000)
  return hz.map((f) => 20 * Math.log10(r.magnitude[Math.round((f / 48_000) * r.frames)] ?? 0))
}
