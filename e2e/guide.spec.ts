import { writeWav } from '@oleaje/core/formats/wav'
import { heardChain } from '@oleaje/core/project/walk'
import type { Page } from '@playwright/test'
import { project, rises, trackNamed, value } from './app'
import { expect } from './fixtures'
import { kinds, links } from './hand'
import { walk } from './walk'

const trackLine = (page: Page, name: string) => page.getByRole('button', { name, exact: true }).first()
const picture = (page: Page) => page.locator('[data-region=effect] canvas').first()
const card = (page: Page) => page.locator('[data-modulator]').last()
const effects = async (page: Page, name: string): Promise<string[]> => kinds(await trackNamed(page, name))
const beat = (page: Page, at: number): Promise<unknown> =>
  page.waitForFunction((b) => globalThis.oleaje.live().beat > b, at, { polling: 20, timeout: 30_000 })

/** Half a second of a click and 1.7 s of a decaying tone, at 107 bpm. */
const ownLoop = (): Buffer => {
  const rate = 48_000
  const frames = Math.round((60 / 107) * 4 * rate)
  const y = Float32Array.from({ length: frames }, (_, i) => {
    const t = (i % Math.round((60 / 107) * rate)) / rate
    return 0.6 * Math.exp(-9 * t) * Math.sin(2 * Math.PI * 311 * t)
  })
  return Buffer.from(writeWav({ sampleRate: rate, channels: [y] }, 16))
}

walk(
  'moving-reverb',
  20,
  {
    'In the track list, click **Add**, then **Sound from a file…**, and choose a loop.': async (
      hand,
      page,
    ) => {
      await hand.button('Add')
      const chooser = page.waitForEvent('filechooser')
      await hand.button('Sound from a file…')
      const file = { name: 'Bell buoy.wav', mimeType: 'audio/wav', buffer: ownLoop() }
      await (await chooser).setFiles([file])
      await expect(trackLine(page, 'Bell buoy')).toBeVisible()
    },
    'Press **Space** to play.': (hand) => hand.key('Space'),
    'Press **A**, type `gate` and press **Enter**. Drag the dashed threshold line in its picture up.': async (
      hand,
      page,
    ) => {
      await hand.add('gate')
      await hand.dragOn(page.locator('[data-line$=threshold]'), [0.5, 0.5], [0.5, -3])
    },
    'Press **A**, type `reverb` and press **Enter**.': (hand) => hand.add('reverb'),
    'Drag on **Wet** to about 40 %, press **M** and choose **new LFO**.': async (hand, page) => {
      await hand.press('Wet, Reverb', 0.4)
      await hand.key('m')
      await hand.click(page.getByRole('menuitem', { name: 'new LFO' }))
    },
    'In the card of the LFO, click the value of **Rate**, type `0.13` and press **Enter**.': (hand) =>
      hand.value('Rate', '0.13'),
    'Drag the right end of the coloured band on **Wet** to the right.': (hand) =>
      hand.dragOn(hand.gauge(/^Maximum of LFO.* on Wet/), [0.5, 0.5], [4, 0.5]),
    'Press **Shift+F**, choose **Whole chain**, type `Breathing room` and press **Enter**.': async (
      hand,
      page,
    ) => {
      await hand.key('Shift+F')
      await hand.click(page.getByRole('radio', { name: 'Whole chain' }))
      await expect(page.locator('#keep-name')).toBeFocused()
      await hand.type('Breathing room')
    },
    'In the track list, click **Fog pad**. Press **F**, type `breathing` and press **Enter**.': async (
      hand,
      page,
    ) => {
      await hand.click(trackLine(page, 'Fog pad'))
      await hand.key('f')
      await page.getByRole('combobox', { name: 'Search the shelf' }).waitFor()
      await hand.type('breathing')
    },
  },
  async (page) => {
    await expect.poll(() => effects(page, 'Fog pad')).toEqual(expect.arrayContaining(['gate', 'reverb']))
    const pad = await trackNamed(page, 'Fog pad')
    expect(pad.modulators.at(-1)?.params.rate).toBe(0.13)
    const gate = heardChain(await trackNamed(page, 'Bell buoy')).nodes[0]
    expect(gate?.params.threshold).toBeGreaterThan(-36)
  },
)

walk(
  'gated-repeater',
  25,
  {
    'In the track list, click **Rope guitar**, and press **Space** to play.': async (hand, page) => {
      await hand.click(trackLine(page, 'Rope guitar'))
      await hand.key('Space')
    },
    'Press **A**, type `stutter` and press **Enter**.': (hand) => hand.add('stutter'),
    'In the row of steps below the picture, click steps 1 and 6 to open the gate there.': async (
      hand,
      page,
    ) => {
      const box = await picture(page).boundingBox()
      if (!box) throw new Error('The picture is not drawn.')
      for (const step of [1, 6])
        await hand.click(picture(page), {
          position: { x: ((step - 0.5) / 8) * box.width, y: box.height - 20 },
        })
    },
    'Set **Gate** to **hold only**, and hold down **Press** beside **Hold**.': async (hand, page) => {
      await hand.click(page.getByRole('radio', { name: 'hold only' }))
      await hand.hold(page.getByRole('button', { name: 'Press Hold, Stutter' }), async () => {
        const { nodes } = heardChain(await trackNamed(page, 'Rope guitar'))
        const id = nodes.find((n) => n.kind === 'effect' && n.type === 'stutter')?.id ?? ''
        await rises(page, `read:node:${id}:open`)
      })
    },
    'Click **Add** beside **Modulators** and choose **Envelope**.': (hand) => hand.addModulator('Envelope'),
    'In its card, set **Trigger** to **gate**, and choose **Stutter gate, Rope guitar** in the list **gate**.':
      async (hand, page) => {
        await hand.click(card(page).getByRole('radio', { name: 'gate' }))
        await hand.click(card(page).getByRole('button', { name: /^gate/ }))
        await hand.click(page.getByRole('option', { name: 'Stutter gate, Rope guitar' }))
      },
    'Click the badge of the envelope and drag on **Pitch per pass** from the middle to the right. Press **Esc**.':
      async (hand) => {
        await hand.button('Link Envelope')
        await hand.drag('Pitch per pass, Stutter', 0.5, 0.8)
        await hand.key('Escape')
      },
    'Set **Gate** to **notes**. Press **Shift+P** and play **Z** and **C** on the computer keyboard. Press **Shift+P** again.':
      async (hand, page) => {
        await hand.click(page.getByRole('radio', { name: 'notes' }).first())
        await hand.key('Shift+P')
        await hand.key('z')
        await hand.key('c')
        await hand.key('Shift+P')
      },
    'Set **Gate** back to **steps**.': (hand, page) =>
      hand.click(page.getByRole('radio', { name: 'steps' }).first()),
  },
  async (page) => {
    const t = await trackNamed(page, 'Rope guitar')
    const stutter = heardChain(t).nodes.find((n) => n.kind === 'effect' && n.type === 'stutter')
    const envelope = t.modulators.find((m) => m.type === 'envelope')
    expect(stutter?.lanes?.steps?.map((s) => s.on)).toEqual([1, 0, 0, 1, 0, 1, 1, 0])
    expect(envelope?.inputs[0]).toEqual({ source: stutter?.id, output: 'gate' })
    await rises(page, `mod:${envelope?.id ?? ''}`)
  },
)

walk(
  'chorus-from-parts',
  34,
  {
    'In the track list, click **Galley keys**, and press **Space** to play.': async (hand, page) => {
      await hand.click(trackLine(page, 'Galley keys'))
      await hand.key('Space')
    },
    'Press **A**, type `split` and press **Enter**.': (hand) => hand.add('split'),
    'On the chart, click the **+** after the start of **first**, type `delay` and press **Enter**.': async (
      hand,
      page,
    ) => {
      await hand.button('Add an effect after the start of first')
      await page.getByRole('combobox', { name: 'Search' }).waitFor()
      await hand.type('delay')
    },
    'Click the value of **Time**, type `11` and press **Enter**. Click the value of **Feedback**, type `0` and press **Enter**.':
      async (hand) => {
        await hand.value('Time', '11')
        await hand.value('Feedback', '0')
      },
    'With **Time** in focus, press **M** and choose **new LFO**. Set its **Rate** to `0.4`.': async (
      hand,
      page,
    ) => {
      await hand.click(page.getByText('Time', { exact: true }).first())
      await hand.key('m')
      await hand.click(page.getByRole('menuitem', { name: 'new LFO' }))
      await hand.value('Rate', '0.4')
    },
    'On the chart, click the **+** after the start of **second**, type `delay` and press **Enter**. Set **Time** to `13` and **Feedback** to `0`.':
      async (hand, page) => {
        await hand.button('Add an effect after the start of second')
        await page.getByRole('combobox', { name: 'Search' }).waitFor()
        await hand.type('delay')
        await hand.value('Time', '13')
        await hand.value('Feedback', '0')
      },
    'In the card of the LFO, click **Copy to…**, click the gauge **Time**, and set the **Rate** of the copy to `0.57`.':
      async (hand, page) => {
        await hand.click(card(page).getByRole('button', { name: 'Copy to…' }))
        await hand.press('Time, Delay', 0.4)
        await hand.click(card(page).getByTitle('Type a value for Rate', { exact: true }))
        await hand.type('0.57')
      },
    'Click **B** to work on a copy. On the chart, click the split.': async (hand) => {
      await hand.button('B')
      await hand.node(/^Split into/)
    },
    'Press **A**, type `chorus` and press **Alt+Enter** to replace the split.': async (hand, page) => {
      await hand.key('a')
      await page.getByRole('combobox', { name: 'Search' }).waitFor()
      await page.keyboard.type('chorus')
      await page.keyboard.press('Alt+Enter')
      hand.actions++
      await expect(page.getByRole('dialog')).toHaveCount(0)
    },
    'Press **C** to switch between A and B while it plays.': (hand) => hand.key('c'),
  },
  async (page) => {
    const t = await trackNamed(page, 'Galley keys')
    expect(t.heard).toBe('a')
    const names = (chain: typeof t.a): string[] =>
      chain.nodes.map((n) => (n.kind === 'effect' ? n.type : n.kind))
    expect(names(t.a)).toEqual(['filter', 'split', 'delay'])
    expect(names(t.b ?? { nodes: [] })).toEqual(['filter', 'chorus', 'delay'])
    const rates = t.modulators.flatMap((m) => (m.type === 'lfo' ? [m.params.rate] : []))
    expect(rates).toEqual([0.4, 0.57])
  },
)

walk(
  'cloud-of-taps',
  18,
  {
    'In the track list, click **Deck kit**, and press **Space** to play.': async (hand, page) => {
      await hand.click(trackLine(page, 'Deck kit'))
      await hand.key('Space')
    },
    'Press **A**, type `taps` and press **Enter**.': (hand) => hand.add('taps'),
    'Click the number of taps, type `16` and press **Enter**.': async (hand, page) => {
      await hand.click(page.getByRole('textbox', { name: 'Number of taps' }))
      await hand.type('16')
    },
    'In the table, click the heading **Filter** and choose **Randomise filter**. Do the same with **Cutoff**.':
      async (hand, page) => {
        for (const name of ['Filter', 'Cutoff']) {
          await hand.click(page.getByRole('columnheader').getByRole('button', { name, exact: true }))
          await hand.click(page.getByRole('menuitem', { name: `Randomise ${name.toLowerCase()}` }))
        }
      },
    'Click the heading **Comb** and choose **Randomise comb**.': async (hand, page) => {
      await hand.click(page.getByRole('columnheader').getByRole('button', { name: 'Comb', exact: true }))
      await hand.click(page.getByRole('menuitem', { name: 'Randomise comb' }))
    },
    'Click **Add** beside **Modulators** and choose **LFO**. Click its badge.': async (hand) => {
      await hand.addModulator('LFO')
      await hand.button(/^Link LFO/)
    },
    'Click the heading **Cutoff** and choose **Link all, fanned out**. Press **Esc**.': async (
      hand,
      page,
    ) => {
      await hand.click(page.getByRole('columnheader').getByRole('button', { name: /^Cutoff/ }))
      await hand.click(page.getByRole('menuitem', { name: 'Link all, fanned out' }))
      await hand.key('Escape')
    },
  },
  async (page) => {
    const taps = heardChain(await trackNamed(page, 'Deck kit')).nodes.find(
      (n) => n.kind === 'effect' && n.type === 'taps',
    )
    expect(taps?.lanes?.taps).toHaveLength(16)
    expect(new Set(taps?.lanes?.taps?.map((tap) => tap.cutoff)).size).toBeGreaterThan(8)
    const link = (await links(page)).at(-1)
    expect([link?.target.lane, link?.fan?.phase]).toEqual(['taps', 1])
  },
)

walk(
  'arpeggio-on-a-band',
  27,
  {
    'In the track list, click **Galley keys**. Press **A**, type `filter` and press **Enter**.': async (
      hand,
      page,
    ) => {
      await hand.click(trackLine(page, 'Galley keys'))
      await hand.add('filter')
    },
    'Click the value of **Shape**, type `band` and press **Enter**. Click the value of **Resonance**, type `12` and press **Enter**.':
      async (hand) => {
        await hand.value('Shape', 'band')
        await hand.value('Resonance', '12')
      },
    'Click **Add** beside **Modulators** and choose **Notes**.': (hand) => hand.addModulator('Notes'),
    'Click the badge of Notes and drag on **Cutoff** from the left to the right.': async (hand) => {
      await hand.button(/^Link Notes/)
      await hand.drag('Cutoff, Filter', 0.02, 0.98)
    },
    'In the card, click the output **velocity** and drag on **Wet** from the left to the right. Press **Esc**.':
      async (hand, page) => {
        await hand.click(card(page).getByRole('button', { name: 'velocity', exact: true }))
        await hand.drag('Wet, Filter', 0.02, 0.98)
        await hand.key('Escape')
      },
    'Press **T**. Click **Notes** before **Galley keys**.': async (hand) => {
      await hand.key('t')
      await hand.button('Notes of Galley keys')
    },
    'Draw two long notes in the roll.': async (hand, page) => {
      const roll = page.locator('[data-region=notes]')
      await hand.dragOn(roll, [0.005, 0.3], [0.24, 0.3])
      await hand.dragOn(roll, [0.005, 0.5], [0.24, 0.5])
    },
    'Click **Arpeggio…** and turn the switch on. Press **Esc**.': async (hand, page) => {
      await hand.button('Arpeggio…')
      await hand.click(page.getByRole('switch', { name: 'Arpeggio' }))
      await hand.key('Escape')
    },
    'Click **Lane…**, choose **bend**, and press **Esc**. Click in the lane below the notes to set a point.':
      async (hand, page) => {
        await hand.button('Lane…')
        await hand.choose(/^Lane below/, 'bend')
        await hand.key('Escape')
        const lane = page.getByRole('application', { name: /bend of Galley keys/ })
        await hand.click(lane, { position: { x: 90, y: 10 } })
      },
    'Press **Space** to play.': (hand) => hand.key('Space'),
  },
  async (page) => {
    const t = await trackNamed(page, 'Galley keys')
    expect(t.arpeggio?.on).toBe(true)
    expect(t.line?.notes).toHaveLength(2)
    expect(t.line?.bend.length).toBeGreaterThan(1)
    const notes = t.modulators.find((m) => m.type === 'notes')
    const own = (await links(page)).filter((l) => l.source === notes?.id)
    expect(own.map((l) => [l.target.param, l.output, l.mode])).toEqual([
      ['cutoff', 'pitch', 'pitch'],
      ['wet', 'velocity', 'floating'],
    ])
    await rises(page, `mod:${notes?.id ?? ''}.gate`)
  },
)

walk(
  'glide-into-ping-pong',
  25,
  {
    'In the track list, click **Add**. Beside **Add as**, click **Played by notes**, and click **Take** at **Hull bass**.':
      async (hand) => {
        await hand.button('Add')
        await hand.button('Played by notes')
        await hand.button('Take Hull bass')
      },
    'Click the value of **Glide**, type `3 s` and press **Enter**.': (hand) => hand.value('Glide', '3 s'),
    'Press **A**, type `delay` and press **Enter**.': (hand) => hand.add('delay'),
    'Turn **Ping-pong** on. Click the value of **Feedback**, type `85` and press **Enter**.': async (
      hand,
      page,
    ) => {
      await hand.click(page.getByRole('switch', { name: /^Ping-pong/ }))
      await hand.value('Feedback', '85')
    },
    'Press **M** on **High cut** and choose **new LFO**.': async (hand, page) => {
      await hand.click(page.getByText('High cut', { exact: true }))
      await hand.key('m')
      await hand.click(page.getByRole('menuitem', { name: 'new LFO' }))
    },
    'Press **Shift+P**. Hold **Q** and then **Z** on the computer keyboard. Press **Shift+P** again.': async (
      hand,
      page,
    ) => {
      await hand.key('Shift+P')
      await page.keyboard.down('q')
      hand.actions++
      const { id } = await trackNamed(page, 'Hull bass 2')
      await expect.poll(() => value(page, `peak:track:${id}`)).toBeGreaterThan(0.001)
      await page.keyboard.down('z')
      hand.actions++
      await page.keyboard.up('q')
      await page.keyboard.up('z')
      await hand.key('Shift+P')
    },
  },
  async (page) => {
    const t = (await project(page)).tracks.find((x) => x.source?.type === 'played')
    expect(t?.source?.params.glide).toBe(3)
    expect(t && heardChain(t).nodes[0]?.params).toMatchObject({ pingPong: 1, feedback: 0.85 })
  },
)

walk(
  'new-snare',
  34,
  {
    'In the track list, click **Deck kit**, then **Source**. Press **Space** to play.': async (
      hand,
      page,
    ) => {
      await hand.click(trackLine(page, 'Deck kit'))
      await hand.button('Source')
      await hand.key('Space')
    },
    'In the picture, click **snare**, then **Own branch**.': async (hand) => {
      await hand.button('Play snare')
      await hand.button('Own branch')
    },
    'On the chart, click the **+** after the start of **snare**, type `compressor` and press **Enter**.':
      async (hand, page) => {
        await hand.button('Add an effect after the start of snare')
        await page.getByRole('combobox', { name: 'Search' }).waitFor()
        await hand.type('compressor')
      },
    'Choose the preset **Drum room** of the Compressor.': async (hand, page) => {
      await hand.click(page.getByRole('button', { name: 'Presets', exact: true }))
      await hand.click(page.getByRole('menuitem', { name: /^Drum room/ }))
    },
    'Press **A**, type `drive` and press **Enter**. Press **A**, type `comb` and press **Enter**.': async (
      hand,
    ) => {
      await hand.add('drive')
      await hand.add('comb')
    },
    'Click the value of **Frequency**, type `D3` and press **Enter**. Drag **Wet** to about a third.': async (
      hand,
    ) => {
      await hand.value('Frequency', 'D3')
      await hand.press('Wet, Comb', 0.33)
    },
    'Press **S** to solo the branch, and **S** again to play the whole kit.': async (hand, page) => {
      await hand.key('s')
      await expect(page.getByText(/Monitoring branch snare only/)).toBeVisible()
      await hand.key('s')
    },
    'Press **V** to hear the dry kit, and **V** again.': async (hand) => {
      await hand.key('v')
      await hand.key('v')
    },
    'Open the menu of the track, choose **Print…**, and click **Print**.': async (hand, page) => {
      await hand.button('Actions for Deck kit')
      await hand.click(page.getByRole('menuitem', { name: /^Print…/ }))
      await hand.click(page.getByRole('dialog').getByRole('button', { name: 'Print', exact: true }))
      await expect.poll(async () => (await project(page)).tracks.some((t) => t.print)).toBe(true)
    },
  },
  async (page) => {
    const kit = await trackNamed(page, 'Deck kit')
    const split = heardChain(kit).nodes[0]
    if (split?.kind !== 'split') throw new Error('The pads were not split.')
    expect(split.mode).toBe('pads')
    const own = split.branches.find((b) => b.name === 'snare')
    expect(own?.nodes.map((n) => (n.kind === 'effect' ? n.type : ''))).toEqual([
      'compressor',
      'drive',
      'comb',
    ])
  },
)

walk(
  'live-input',
  16,
  {
    'In the track list, click **Line in**, then **Source**, then **Turn input on**.': async (hand, page) => {
      await hand.click(trackLine(page, 'Line in'))
      await hand.button('Source')
      await hand.button('Turn input on')
    },
    'Press **A**, type `filter` and press **Enter**.': (hand) => hand.add('filter'),
    'Drag on **Cutoff** to about 300 Hz, press **M** and choose **new Follower**.': async (hand, page) => {
      await hand.press('Cutoff, Filter', 0.39)
      await hand.key('m')
      await hand.click(page.getByRole('menuitem', { name: 'new Follower' }))
    },
    'Click **Record**, play for more than one pass of the loop, and click **Stop take**.': async (
      hand,
      page,
    ) => {
      await hand.button('Record')
      await beat(page, 15.5)
      await page.waitForFunction(() => globalThis.oleaje.live().beat < 2, undefined, {
        polling: 20,
        timeout: 30_000,
      })
      await hand.button('Stop take')
      await expect.poll(async () => (await trackNamed(page, 'Line in')).takes?.length).toBe(1)
    },
    'Open the menu of **Take 1** and choose **Cut to the loop**.': async (hand, page) => {
      await hand.button('Actions for Take 1')
      await hand.click(page.getByRole('menuitem', { name: /^Cut to the loop/ }))
      const { takes } = await trackNamed(page, 'Line in')
      await expect
        .poll(async () => (await trackNamed(page, 'Line in')).takes?.[0]?.wet)
        .not.toBe(takes?.[0]?.wet)
    },
    'Open the menu of **Take 1** and choose **Keep wet and dry**.': async (hand, page) => {
      await hand.button('Actions for Take 1')
      await hand.click(page.getByRole('menuitem', { name: /^Keep wet and dry/ }))
    },
  },
  async (page) => {
    const p = await project(page)
    const frames = ((p.loop.end - p.loop.start) * 60 * p.sampleRate) / p.tempo
    for (const side of ['wet', 'dry']) {
      const kept = await trackNamed(page, `Take 1 ${side}, Line in`)
      expect(p.audio[kept.source?.audio ?? '']?.frames).toBe(frames)
    }
  },
)

walk(
  'one-control-riser',
  34,
  {
    'In the track list, click **Galley keys**. Click **Add** beside **Macros**, and click the badge of the macro.':
      async (hand, page) => {
        await hand.click(trackLine(page, 'Galley keys'))
        await hand.addMacro()
        await hand.button(/^Link Macro/)
      },
    'Press **A**, type `frequency shift` and press **Enter**. Drag on **Shift** from the middle to the right.':
      async (hand) => {
        await hand.add('frequency shift')
        await hand.drag('Shift, Frequency shift', 0.5, 0.7)
      },
    'Press **A**, type `noise layer` and press **Enter**. Drag on **Level** from the left to two thirds.':
      async (hand) => {
        await hand.add('noise layer')
        await hand.drag('Level, Noise layer', 0.02, 0.66)
      },
    'Press **A**, type `delay` and press **Enter**. Drag on **Feedback** from the left to two thirds.':
      async (hand) => {
        await hand.add('delay')
        await hand.drag('Feedback, Delay', 0.02, 0.66)
      },
    'Press **A**, type `reverb` and press **Enter**. Drag on **Wet** from the left to two thirds. Press **Esc**.':
      async (hand) => {
        await hand.add('reverb')
        await hand.drag('Wet, Reverb', 0.02, 0.66)
        await hand.key('Escape')
      },
    'Click **4 links** below the macro. Click the maximum of **Delay Feedback**, type `70` and press **Enter**. Press **Esc**.':
      async (hand, page) => {
        await hand.button('4 links')
        await hand.click(page.getByRole('textbox', { name: 'Maximum of Delay Feedback' }))
        await hand.type('70')
        await hand.key('Escape')
      },
    'Click the macro, press **W** and **Space**. Drag the macro up while it plays, and press **W**.': async (
      hand,
      page,
    ) => {
      const macro = page.getByRole('slider', { name: /^Macro Macro/ })
      await hand.click(macro, { position: { x: 10, y: 58 } })
      await hand.key('w')
      await hand.key('Space')
      await beat(page, 1)
      await hand.dragOn(macro, [0.5, 0.95], [0.5, 0.05])
      await beat(page, 3)
      await macro.focus()
      await hand.key('w')
    },
    'Press **T** and drag on the recorded curve to change it.': async (hand, page) => {
      await hand.key('t')
      await hand.dragOn(
        page.getByRole('application', { name: /^Curve Ride of Macro/ }),
        [0.5, 0.1],
        [0.5, 0.6],
      )
    },
    'Press **R**, and click **Render to WAV**.': async (hand, page) => {
      await hand.key('r')
      const download = page.waitForEvent('download', { timeout: 60_000 })
      await hand.click(page.getByRole('button', { name: 'Render to WAV' }))
      await (await download).path()
      await page.keyboard.press('t')
    },
  },
  async (page) => {
    const t = await trackNamed(page, 'Galley keys')
    const macro = t.modulators.find((m) => m.type === 'macro')
    const own = (await links(page)).filter((l) => l.source === macro?.id)
    expect(own.map((l) => l.target.param)).toEqual(['shift', 'level', 'feedback', 'wet'])
    const ride = t.modulators.find((m) => m.type === 'curve')
    expect(ride?.name).toMatch(/^Ride of Macro/)
    expect((ride?.data?.points as unknown[]).length).toBeGreaterThan(2)
  },
)

walk(
  'pitch-spiral',
  13,
  {
    'In the track list, click **Foghorn voice**, and press **Space** to play.': async (hand, page) => {
      await hand.click(trackLine(page, 'Foghorn voice'))
      await hand.key('Space')
    },
    'Press **A**, type `pitch` and press **Enter**. Click the value of **Pitch**, type `7` and press **Enter**.':
      async (hand) => {
        await hand.add('pitch')
        await hand.value('Pitch', '7')
      },
    'Press **Y** to put a feedback loop around it.': (hand) => hand.key('y'),
    'Click the value of **Feedback**, type `110` and press **Enter**.': (hand) =>
      hand.value('Feedback', '110'),
    'Click the value of **Repeats**, type `5` and press **Enter**.': (hand) => hand.value('Repeats', '5'),
  },
  async (page) => {
    const loop = heardChain(await trackNamed(page, 'Foghorn voice')).nodes.find((n) => n.kind === 'loop-back')
    if (loop?.kind !== 'loop-back') throw new Error('There is no loop-back.')
    expect(loop.params).toMatchObject({ feedback: 1.1, repeats: 5 })
    expect(loop.nodes.map((n) => (n.kind === 'effect' ? n.params.pitch : 0))).toEqual([7])
    await rises(page, `peak:loop:${loop.id}`)
  },
)
