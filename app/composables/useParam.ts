import { learnEnd, pointLinks } from '@oleaje/core/project/motion-edits'
import { setParam, setNormalized } from '@oleaje/core/project/value-edits'
import type { Edit } from '@oleaje/core/project/edit'
import { gaugeKey, lanePlace, pathOf, targetAt } from '@oleaje/core/project/param-path'
import { findTarget, linkEnds, ownerName, paramName } from '@oleaje/core/project/targets'
import { type ParamSpec, isStepped } from '@oleaje/core/units/parameter'
import { fromNormalized, toNormalized } from '@oleaje/core/units/scale'
import { ValueTextError, formatValue, noteLengths, parseValue } from '@oleaje/core/units/text'
import { type MaybeRefOrGetter, computed, toValue } from 'vue'
import type { TimePair } from '@oleaje/core/contract/effect'
import { useOtherOfPair } from './useOtherOfPair'
import { useGesture } from './useGesture'
import { type LinkRange, useLinking } from './useLinking'
import { morphedAt } from './morphed'
import { useSession } from './useSession'

/**
 * Everything that a control of one parameter needs: what it is, where it stands, what moves it, and how to
 * set it.
 */
export function useParam(
  owner: MaybeRefOrGetter<string>,
  param: MaybeRefOrGetter<string>,
  pair: () => TimePair | undefined = () => undefined,
) {
  const { doc, host, selection } = useSession()
  const hand = useGesture()
  const linking = useLinking()
  const other = useOtherOfPair(
    () => toValue(owner),
    () => toValue(param),
    pair,
  )
  const target = () => targetAt(toValue(owner), toValue(param))
  const found = computed(() => (doc.project ? findTarget(doc.project, target()) : undefined))
  const spec = computed(() => found.value?.spec)
  /** Where the parameter stands; while a macro learns, where it stands at that end of the macro. */
  const value = computed(() => {
    const { learning } = selection
    const base = found.value?.base ?? 0
    const link =
      learning &&
      doc.project?.links.find(
        (l) =>
          l.source === learning.macro &&
          l.target.owner === toValue(owner) &&
          pathOf(l.target) === toValue(param),
      )
    return link && spec.value
      ? fromNormalized(spec.value, linkEnds(link, spec.value, base)[learning.end])
      : base
  })
  const place = computed(() => (spec.value ? toNormalized(spec.value, value.value) : 0))
  const text = computed(() => (spec.value ? formatValue(spec.value, value.value) : ''))
  const label = computed(() => (found.value ? paramName(found.value.owner, toValue(param)) : ''))
  const where = computed(() => (found.value ? ownerName(found.value.owner) : ''))
  const modulators = computed(
    () => new Map(doc.project?.tracks.flatMap((t) => t.modulators.map((m) => [m.id, m] as const)) ?? []),
  )
  const everyItem = computed(() => {
    const place = lanePlace(toValue(param))
    return place ? pathOf({ lane: place.lane, param: place.param }) : ''
  })
  const links = computed(() =>
    (doc.project?.links ?? [])
      .filter(
        (l) =>
          l.target.owner === toValue(owner) &&
          (pathOf(l.target) === toValue(param) || pathOf(l.target) === everyItem.value),
      )
      .map((link) => ({
        link,
        modulator: modulators.value.get(link.source),
        ends: spec.value ? linkEnds(link, spec.value, found.value?.base ?? 0) : { from: 0, to: 0 },
      })),
  )
  const key = computed(() => gaugeKey(toValue(owner), toValue(param)))
  const morphs = computed(() => morphedAt(doc.project, key.value))
  const title = () => `Set ${where.value} ${label.value.toLowerCase()}`

  const set = (v: number): void => {
    if (!learn(() => toNormalized(spec.value as ParamSpec, v)))
      hand.edit(title(), setParam(toValue(owner), toValue(param), v))
  }
  const setAt = (p: number): void => {
    if (!learn(() => p))
      hand.edit(title(), setNormalized(toValue(owner), toValue(param), Math.min(1, Math.max(0, p))))
  }

  /** While a macro learns, a gauge sets what the macro does at that end instead of its base. */
  function learn(at: () => number): boolean {
    const { learning } = selection
    if (!learning || learning.macro === toValue(owner) || !spec.value) return false
    hand.edit(title(), learnEnd(learning.macro, target(), learning.end, at()))
    return true
  }

  /** One step of the arrow keys; choices and note lengths go to their neighbours. */
  function step(by: number, stride = false): void {
    const s = spec.value
    if (!s) return
    if (isStepped(s)) return set(value.value + Math.sign(by))
    if (s.unit === 'beats') {
      const next =
        by > 0
          ? noteLengths.find((n) => n.beats > value.value * 1.0001)
          : [...noteLengths].reverse().find((n) => n.beats < value.value * 0.9999)
      if (next) set(next.beats)
      return
    }
    setAt(place.value + by * (stride ? 0.1 : 0.01))
  }

  /** Takes what was typed. Gives a sentence where it makes no sense. */
  function type(what: string): string | null {
    if (!spec.value) return null
    try {
      set(parseValue(spec.value, what, value.value))
      return null
    } catch (error) {
      if (!(error instanceof ValueTextError)) throw error
      return other.type(what, title()) ? null : error.message
    }
  }

  const reset = (): void => {
    if (spec.value) set(spec.value.default)
  }

  /** Links a modulator to this gauge, and to all others that are marked; see {@link useLinking}. */
  function link(modulator: string, range?: LinkRange, first?: Edit, newType?: string): void {
    linking.link(modulator, { key: key.value, label: label.value, range }, first, newType)
  }

  /** Points the links that wait for it at this gauge. */
  function repoint(): void {
    const id = selection.repointing
    selection.repointing = null
    if (id && toValue(owner) !== id)
      doc.edit(`Relink to ${label.value.toLowerCase()}`, pointLinks(id, target()))
  }

  /** Where the parameter is now, as a place on its staff. */
  const liveNormalized = (): number => host.telemetry.get(`live:${key.value}`, place.value)
  const liveValue = (): number => (spec.value ? fromNormalized(spec.value, liveNormalized()) : 0)

  return {
    hand,
    spec,
    value,
    place,
    text,
    label,
    where,
    links,
    morphs,
    key,
    set,
    setAt,
    step,
    type,
    swapPair: other.swap,
    otherOf: other.of,
    reset,
    link,
    repoint,
    liveNormalized,
    liveValue,
  }
}
