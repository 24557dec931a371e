import { computed, ref, useId, watch } from 'vue'

/** Rows that PageUp and PageDown move by. */
const PAGE = 8

/**
 * A search field and the list that it finds (the pattern "editable combobox with list" of WAI-ARIA 1.2). Keys
 * walk through the list while the field keeps the focus. A step takes effect before the next key arrives,
 * however quick; that is why the combobox of Headless UI is not used here, which moves its highlight with the
 * next frame only.
 * @param search finds what fits, the best first; ids must differ
 * @param on what happens to the highlighted one
 */
export function useSearchList<T extends { readonly id: string }>(
  search: (query: string) => readonly T[],
  on: { choose: (one: T, e: KeyboardEvent | MouseEvent) => void; walk?: (one: T) => void },
) {
  const id = useId()
  const query = ref('')
  const found = computed(() => search(query.value))
  const walkedTo = ref('')
  watch(query, () => {
    walkedTo.value = ''
  })
  /** The best one is highlighted until the keys or the pointer have walked. */
  const at = computed(() =>
    Math.max(
      0,
      found.value.findIndex((f) => f.id === walkedTo.value),
    ),
  )
  const now = computed<T | null>(() => found.value[at.value] ?? null)
  const optionId = (i: number): string => `${id}-${i}`

  function highlight(i: number): void {
    const one = found.value[Math.min(found.value.length - 1, Math.max(0, i))]
    if (!one) return
    walkedTo.value = one.id
    document.getElementById(optionId(at.value))?.scrollIntoView({ block: 'nearest' })
    on.walk?.(one)
  }
  function press(e: KeyboardEvent): void {
    if (e.isComposing) return
    const places: Record<string, number> = {
      ArrowDown: at.value + 1,
      ArrowUp: at.value - 1,
      PageDown: at.value + PAGE,
      PageUp: at.value - PAGE,
      Home: 0,
      End: found.value.length - 1,
    }
    const place = e.shiftKey || e.altKey ? undefined : places[e.key]
    if (place !== undefined) highlight(place)
    else if (e.key !== 'Enter') return
    else if (now.value) on.choose(now.value, e)
    e.preventDefault()
    e.stopPropagation()
  }

  return {
    query,
    found,
    now,
    highlight,
    /** Attributes and keys of the field. */
    field: computed(() => ({
      'role': 'combobox',
      'autocomplete': 'off',
      'aria-autocomplete': 'list' as const,
      'aria-expanded': true,
      'aria-controls': id,
      'aria-activedescendant': now.value ? optionId(at.value) : undefined,
      'onKeydown': press,
    })),
    list: { id, role: 'listbox' },
    option: (i: number) => ({ 'id': optionId(i), 'role': 'option', 'aria-selected': i === at.value }),
    /** Highlights what the pointer is moved to; a list that scrolls below a resting one changes nothing. */
    point: (i: number, e: PointerEvent): void => {
      if (i !== at.value && (e.movementX || e.movementY)) highlight(i)
    },
  }
}

export type SearchList<T extends { readonly id: string }> = ReturnType<typeof useSearchList<T>>
