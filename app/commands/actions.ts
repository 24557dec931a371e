import { modulators } from '@oleaje/core/modulators/index'
import { duplicateNode, hear, removeNode, removeTrack, shiftNode, unwrap } from '@oleaje/core/project/chain-edits'
import { duplicateModulator, removeModulator } from '@oleaje/core/project/motion-edits'
import { SNAPSHOTS } from '@oleaje/core/project/snapshots'
import { setLoop } from '@oleaje/core/project/song-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import type { ChainNode, Modulator, Track } from '@oleaje/core/project/schema'
import { branchesOf, innerLists } from '@oleaje/core/project/nodes/index'
import { heardChain, placeOf } from '@oleaje/core/project/walk'
import { pictureOf, responseViews } from '../stores/picture-choices'
import { listeningViews } from '../stores/listening-views'
import { enclose } from './enclose'
import { focusOfGauge } from '../composables/focus-gauge'
import type { Region } from '../composables/region'
import type { useSession } from '../composables/useSession'

type Session = ReturnType<typeof useSession>

/** Something that can be done: by its key, and by its name from the finder. `keys` is how it is written for people. */
export interface Action {
  readonly name: string
  readonly keys: string
  /** As tinykeys reads it; none for what has a key of its own elsewhere. */
  readonly binding?: string
  /**
   * Parts of the page whose focus it acts on: a key acts on what has the focus, or on nothing. `page` is nothing focused at all.
   * Without it, it is everywhere.
   */
  readonly at?: readonly Region[]
  readonly run: () => void
}

/** Where keys are about the effect that is chosen, and where they may remove it. */
const EFFECT: readonly Region[] = ['chart', 'effect', 'page']
const CHART: readonly Region[] = ['chart', 'page']
/** What adds, keeps or shows, and so can do no harm, is heard on the whole Bench. */
const BENCH: readonly Region[] = ['chart', 'effect', 'tracks', 'modulators', 'page', 'other']

/** Every action of the Bench. */
export function actions(session: Session): Action[] {
  const { doc, selection, monitoring, screen, preferences, devices } = session
  const node = (): ChainNode | undefined => (selection.owner?.kind === 'node' ? selection.owner.node : undefined)
  return [
    { name: 'Play or stop', keys: 'Space', binding: 'Space', run: () => void session.transport.toggle() },
    { name: 'Silence all that rings', keys: 'Q', binding: 'q', run: () => session.host.silence() },
    {
      name: 'Stop cuts what rings, or lets it ring',
      keys: '',
      run: () => {
        monitoring.stopCuts = !monitoring.stopCuts
      },
    },
    { name: 'Put a loop-back around the marked effects', keys: 'Y', binding: 'y', at: EFFECT, run: () => enclose(session, 'loop-back') },
    {
      name: 'Put a split around the marked effects',
      keys: 'Shift+Y',
      binding: 'Shift+y',
      at: EFFECT,
      run: () => enclose(session, 'split'),
    },
    { name: 'Put a group around the marked effects', keys: '', at: EFFECT, run: () => enclose(session, 'group') },
    {
      name: 'Unwrap the container, leaving what is inside',
      keys: '',
      at: EFFECT,
      run: () => {
        const n = node()
        if (n && n.kind !== 'effect') doc.edit('Unwrap', unwrap(n.id))
      },
    },
    { name: 'Loop on or off', keys: 'L', binding: 'l', run: () => doc.edit('Switch the loop', setLoop({ on: !doc.project?.loop.on })) },
    {
      name: 'Change between A and B',
      keys: 'C',
      binding: 'c',
      run: () => {
        const t = selection.track
        // what is heard is no step of the history
        if (t) doc.edit('Change between A and B', hear(t.id, t.heard === 'a' ? 'b' : 'a'), true)
      },
    },
    {
      name: 'Hear dry',
      keys: 'V',
      binding: 'v',
      run: () => {
        monitoring.hearDry = !monitoring.hearDry
      },
    },
    { name: 'Undo', keys: 'Ctrl+Z', binding: '$mod+z', run: () => doc.undo() },
    { name: 'Redo', keys: 'Ctrl+Shift+Z', binding: '$mod+Shift+z', run: () => doc.redo() },
    {
      name: 'Add an effect after the selected one',
      keys: 'A',
      binding: 'a',
      at: BENCH,
      run: () => {
        screen.dialog = 'add'
      },
    },
    {
      name: 'Duplicate the effect',
      keys: 'D',
      binding: 'd',
      at: CHART,
      run: () => {
        if (selection.selectedId) doc.edit('Duplicate', duplicateNode(selection.selectedId))
      },
    },
    {
      name: 'Remove the focused track',
      keys: 'Delete',
      binding: 'Delete',
      at: ['tracks'],
      run: () => focusedTrack(session, (t) => doc.edit(`Remove track ${t.name}`, removeTrack(t.id))),
    },
    {
      name: 'Duplicate the focused track',
      keys: 'D',
      binding: 'd',
      at: ['tracks'],
      run: () => focusedTrack(session, (t) => session.shelf.duplicateTrack(t.id)),
    },
    {
      name: 'Remove the focused modulator or macro',
      keys: 'Delete',
      binding: 'Delete',
      at: ['modulators'],
      run: () => focusedModulator(session, (m) => doc.edit(`Remove ${m.name}`, removeModulator(m.id))),
    },
    {
      name: 'Duplicate the focused modulator or macro',
      keys: 'D',
      binding: 'd',
      at: ['modulators'],
      run: () => focusedModulator(session, (m) => doc.edit(`Duplicate ${m.name}`, duplicateModulator(m.id, true))),
    },
    { name: 'Remove the effect', keys: 'Delete', binding: 'Delete', at: CHART, run: () => remove(session) },
    {
      name: 'Effect on or off',
      keys: 'X',
      binding: 'x',
      at: EFFECT,
      run: () => {
        const n = node()
        if (n) doc.edit('Switch the effect', setParam(n.id, 'on', (n.params.on ?? 1) >= 0.5 ? 0 : 1))
      },
    },
    {
      name: 'Hear up to here',
      keys: 'H',
      binding: 'h',
      at: EFFECT,
      run: () => {
        monitoring.upTo = monitoring.upTo === selection.selectedId ? null : selection.selectedId
      },
    },
    {
      name: 'Hear the wet part of the effect',
      keys: 'E',
      binding: 'e',
      at: EFFECT,
      run: () => {
        if (node()?.kind === 'effect') monitoring.hearPart(node()?.id ?? '', 'wet')
      },
    },
    {
      name: 'Hear what the effect adds',
      keys: 'Shift+E',
      binding: 'Shift+e',
      at: EFFECT,
      run: () => {
        if (node()?.kind === 'effect') monitoring.hearPart(node()?.id ?? '', 'difference')
      },
    },
    { name: 'Hear all again', keys: 'Shift+H', binding: 'Shift+h', run: () => monitoring.hearAll() },
    { name: 'Hear this branch alone', keys: 'S', binding: 's', at: EFFECT, run: () => soloBranch(session) },
    {
      name: 'Move the effect left',
      keys: 'Ctrl+Shift+←',
      binding: '$mod+Shift+ArrowLeft',
      at: EFFECT,
      run: () => {
        if (selection.selectedId) doc.edit('Move the effect', shiftNode(selection.selectedId, -1))
      },
    },
    {
      name: 'Move the effect right',
      keys: 'Ctrl+Shift+→',
      binding: '$mod+Shift+ArrowRight',
      at: EFFECT,
      run: () => {
        if (selection.selectedId) doc.edit('Move the effect', shiftNode(selection.selectedId, 1))
      },
    },
    { name: 'Along the water', keys: '← →', binding: 'ArrowRight', at: CHART, run: () => walk(session, 1) },
    { name: 'Back along the water', keys: '←', binding: 'ArrowLeft', at: CHART, run: () => walk(session, -1) },
    { name: 'To the branch below', keys: '↓', binding: 'ArrowDown', at: CHART, run: () => changeBranch(session, 1) },
    { name: 'To the branch above', keys: '↑', binding: 'ArrowUp', at: CHART, run: () => changeBranch(session, -1) },
    { name: 'Take a modulator in hand', keys: 'G and its letter', run: () => {} },
    {
      name: 'Let go of the modulator',
      keys: 'Esc',
      binding: 'Escape',
      run: () => {
        selection.inHand = null
        selection.handOutput = null
        selection.marked = []
        selection.learning = null
        devices.controlFor = null
        selection.repointing = null
      },
    },
    { name: 'Mark the gauge for linking several at once', keys: 'Shift+click, or Shift+Space', run: () => {} },
    { name: 'Go to the Bench', keys: 'B', binding: 'b', run: () => void session.views.go('/') },
    { name: 'Go to the Timeline', keys: 'T', binding: 't', run: () => void session.views.go('/timeline') },
    { name: 'Go to the Links', keys: 'K', binding: 'k', run: () => void session.views.go('/links') },
    {
      name: 'Hear the traced modulator alone, the others standing still',
      keys: 'O',
      binding: 'o',
      run: () => {
        monitoring.alone = monitoring.alone ? null : selection.traced
      },
    },
    {
      name: 'Record the ride of the focused gauge, or end it',
      keys: 'W',
      binding: 'w',
      run: () => session.automation.toggle(focusedGauge()),
    },
    {
      name: 'Let a control of a device steer the focused gauge',
      keys: 'I',
      binding: 'i',
      run: () => {
        devices.controlFor = devices.controlFor ? null : focusedGauge()
      },
    },
    {
      name: 'Show the simulated controller',
      keys: 'U',
      binding: 'u',
      run: () => {
        screen.deviceShown = !screen.deviceShown
      },
    },
    {
      name: 'Play notes by the computer’s keys, or no more',
      keys: 'Shift+P',
      binding: 'Shift+p',
      run: () => {
        devices.typesNotes = !devices.typesNotes
      },
    },
    {
      name: 'Record notes on the track, or end the take',
      keys: 'Shift+R',
      binding: 'Shift+r',
      run: () => {
        if (selection.track) session.notes.record(selection.track)
      },
    },
    {
      name: 'Record the track, dry and wet, or end the take',
      keys: 'Shift+T',
      binding: 'Shift+t',
      run: () => {
        if (selection.track) void session.takes.toggle(selection.track)
      },
    },
    { name: 'Tap the tempo', keys: 'Shift+B', binding: 'Shift+b', run: () => session.tempo.tap() },
    { name: 'Notes from a MIDI file', keys: '', run: () => void session.midiFiles.choose(selection.track ?? null) },
    { name: 'Notes of all tracks to a MIDI file', keys: '', run: () => void session.midiFiles.save(null) },
    { name: 'Keep on the shelf what has the focus', keys: 'Shift+F', binding: 'Shift+f', at: BENCH, run: () => keep(session) },
    {
      name: 'Open the shelf: what was kept',
      keys: 'F',
      binding: 'f',
      run: () => {
        screen.dialog = 'shelf'
      },
    },
    { name: 'Copy, cut, paste what has the focus', keys: 'Ctrl+C, Ctrl+X, Ctrl+V', run: () => {} },
    ...Array.from({ length: SNAPSHOTS }, (_, i): Action[] => [
      { name: `Go to snapshot ${i + 1}`, keys: `${i + 1}`, binding: `Digit${i + 1}`, run: () => session.snapshots.recall(i + 1) },
      { name: `Take snapshot ${i + 1}`, keys: `Shift+${i + 1}`, binding: `Shift+Digit${i + 1}`, run: () => session.snapshots.take(i + 1) },
    ]).flat(),
    {
      name: 'Enlarge the picture of what is selected, and back',
      keys: 'Z',
      binding: 'z',
      at: BENCH,
      run: () => {
        screen.enlarged = !screen.enlarged
      },
    },
    {
      name: 'Enlarge the listening panel, and back',
      keys: 'Shift+Z',
      binding: 'Shift+z',
      at: BENCH,
      run: () => {
        screen.listeningEnlarged = !screen.listeningEnlarged
      },
    },
    {
      name: 'Render',
      keys: 'R',
      binding: 'r',
      run: () => {
        screen.dialog = 'render'
      },
    },
    {
      name: 'Print the track, or the mix, to a new track',
      keys: 'Ctrl+P',
      binding: '$mod+p',
      run: () => {
        screen.dialog = 'print'
      },
    },
    {
      name: 'Save to a file',
      keys: 'Ctrl+S',
      binding: '$mod+s',
      run: () => document.querySelector<HTMLElement>('[data-action="save-file"]')?.click(),
    },
    {
      name: 'Projects',
      keys: 'P',
      binding: 'p',
      run: () => {
        screen.dialog = 'projects'
      },
    },
    {
      name: 'Day or night',
      keys: 'N',
      binding: 'n',
      run: () => {
        preferences.night = !preferences.night
      },
    },
    {
      name: 'To the gauges of the effect',
      keys: 'J',
      binding: 'j',
      at: BENCH,
      run: () => focusOfGauge(document.querySelector<HTMLElement>('[data-region=effect] [data-gauge]'))?.focus(),
    },
    {
      name: 'Back to the chart',
      keys: 'Shift+J',
      binding: 'Shift+j',
      at: BENCH,
      run: () => document.querySelector<HTMLElement>(`[data-node="${selection.selectedId}"]`)?.focus(),
    },
    {
      name: 'Find anything',
      keys: 'Ctrl+K',
      binding: '$mod+k',
      run: () => {
        screen.dialog = 'find'
      },
    },
    { name: 'New project', keys: '', run: () => void session.library.newProject() },
    ...(['short', 'middle', 'long'] as const).map((buffer): Action => ({
      name: `Use the ${buffer} buffer at the output`,
      keys: '',
      run: () => void session.setBuffer(buffer),
    })),
    { name: 'Add a tone track', keys: '', run: () => session.library.addTone() },
    { name: 'Add a played sound', keys: '', run: () => session.library.addPlayed() },
    { name: 'Add a track that hears another one', keys: '', run: () => session.library.addListening() },
    { name: 'Add a bus', keys: '', run: () => session.library.addBus() },
    { name: 'Add a live input', keys: '', run: () => session.library.addInput() },
    {
      name: 'Open or close the input of the track',
      keys: '',
      run: () => {
        if (selection.track?.source?.type === 'input') void session.input.toggle(selection.track)
      },
    },
    ...listeningViews.map((v): Action => ({
      name: `Listening: ${v.name}`,
      keys: '',
      run: () => {
        screen.listeningView = v.id
      },
    })),
    ...pictureOf.map((p): Action => ({
      name: `Picture of ${p.text}`,
      keys: '',
      run: () => {
        screen.shows = p.value
      },
    })),
    ...responseViews.map((v): Action => ({
      name: `Response: ${v.text.toLowerCase()}`,
      keys: '',
      run: () => {
        screen.responseView = v.value
      },
    })),
    ...modulators.map((m): Action => ({
      name: `Add ${/^[aeiou]|^lfo/i.test(m.name) ? 'an' : 'a'} ${m.name === 'LFO' ? 'LFO' : m.name.toLowerCase()}`,
      keys: '',
      run: () => session.addModulator(m.id),
    })),
    {
      name: 'All keys',
      keys: '?',
      binding: 'Shift+?',
      run: () => {
        screen.dialog = 'keys'
      },
    },
    {
      name: 'Licences',
      keys: '',
      run: () => {
        screen.dialog = 'licences'
      },
    },
  ]
}

/** The gauge that has the focus, as `owner.path`. */
const focusedGauge = (): string | null => document.activeElement?.closest<HTMLElement>('[data-gauge]')?.dataset.gauge ?? null

/** Asks for the name under which what has the focus is kept. */
function keep({ screen, shelf }: Session): void {
  screen.toKeep = shelf.presetToKeep(document.activeElement) ?? null
  if (screen.toKeep) screen.dialog = 'keep'
}

/** The track whose line has the focus. */
function focusedTrack({ doc }: Session, act: (track: Track) => void): void {
  const id = document.activeElement?.closest<HTMLElement>('[data-track]')?.dataset.track
  const track = doc.project?.tracks.find((t) => t.id === id && t.kind === 'track')
  if (track) act(track)
}

/** The modulator on whose card or macro the focus is. */
function focusedModulator({ doc }: Session, act: (modulator: Modulator) => void): void {
  const id = document.activeElement?.closest<HTMLElement>('[data-modulator]')?.dataset.modulator
  const modulator = doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === id)
  if (modulator) act(modulator)
}

function remove({ doc, selection }: Session): void {
  const id = selection.selectedId
  const track = selection.track
  if (!id || !track) return
  const place = placeOf(heardChain(track).nodes, id)
  const next = place && (place.list[place.index + 1] ?? place.list[place.index - 1])
  doc.edit('Remove the effect', removeNode(id))
  selection.selected = next ? [next.id] : []
}

/** The chain as one walks it: containers open into their first branch. */
function walk({ selection }: Session, by: 1 | -1): void {
  const track = selection.track
  if (!track) return
  const flat: string[] = []
  const visit = (list: readonly ChainNode[]): void => {
    for (const n of list) {
      flat.push(n.id)
      const empty = branchesOf(n).find((b) => b.id === selection.selectedId)
      if (empty) {
        flat.push(empty.id)
        continue
      }
      const inner = innerLists(n)
      const holds = inner.find((l) => contains(l, selection.selectedId)) ?? inner[0]
      if (holds) visit(holds)
    }
  }
  visit(heardChain(track).nodes)
  const at = flat.indexOf(selection.selectedId ?? '')
  const next = flat[at < 0 ? 0 : Math.min(flat.length - 1, Math.max(0, at + by))]
  if (next) selection.select(next)
}

function contains(list: readonly ChainNode[], id: string | null): boolean {
  return list.some((n) => n.id === id || innerLists(n).some((l) => contains(l, id)))
}

function branchOf(
  list: readonly ChainNode[],
  id: string | null,
): { split: Extract<ChainNode, { kind: 'split' }>; index: number } | undefined {
  for (const n of list) {
    if (n.kind === 'split') {
      if (n.id === id) return { split: n, index: -1 }
      const index = n.branches.findIndex((b) => b.id === id || contains(b.nodes, id))
      if (index >= 0) return branchOf(n.branches[index]?.nodes ?? [], id) ?? { split: n, index }
    } else if (n.kind !== 'effect') {
      const found = branchOf(n.nodes, id)
      if (found) return found
    }
  }
  return undefined
}

function changeBranch({ selection }: Session, by: 1 | -1): void {
  const found = selection.track && branchOf(heardChain(selection.track).nodes, selection.selectedId)
  if (!found) return
  for (let i = found.index + by; i >= 0 && i < found.split.branches.length; i += by) {
    const branch = found.split.branches[i]
    // an empty one is selected itself
    if (branch) return selection.select(branch.nodes[0]?.id ?? branch.id)
  }
}

function soloBranch({ selection, monitoring }: Session): void {
  const found = selection.track && branchOf(heardChain(selection.track).nodes, selection.selectedId)
  const branch = found?.split.branches[Math.max(0, found.index)]
  if (branch) monitoring.toggleSoloBranch(branch.id)
}
