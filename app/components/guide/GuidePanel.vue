<script setup lang="ts">
import { computed, nextTick, onMounted, ref, shallowRef } from 'vue'
import { followPointer } from '../../composables/follow-pointer'
import { useSession } from '../../composables/useSession'
import type { Guide } from '../../services/guide'

/**
 * The guide beside the work. It stays open while its steps are done, and is moved by its title. Its pages are
 * loaded when it is opened first.
 */
const { screen, preferences } = useSession()
const guide = shallowRef<Guide>()
const failed = ref(false)
const pages = computed(() => guide.value?.pages ?? [])
const query = ref('')
const path = ref('guide/README.md')
const body = ref<HTMLElement | null>(null)
const field = ref<HTMLInputElement | null>(null)
/** The pages that are listed: all of them, or those that were searched for. */
const isListed = ref(false)

onMounted(load)
async function load(): Promise<void> {
  failed.value = false
  try {
    guide.value = (await import('../../services/guide')).openGuide()
  } catch {
    failed.value = true
  }
  await nextTick()
  field.value?.focus()
}
const found = computed(() => guide.value?.search(query.value) ?? [])
const page = computed(() => pages.value.find((p) => p.path === path.value) ?? pages.value[0])
const html = computed(() => (page.value && guide.value ? guide.value.render(page.value) : ''))
const groups = computed(() =>
  (['Walk-throughs', 'Reference'] as const)
    .map((name) => ({ name, pages: found.value.filter((p) => p.group === name) }))
    .filter((g) => g.pages.length),
)

function show(to: string): void {
  path.value = to
  isListed.value = false
  query.value = ''
  void nextTick(() => body.value?.scrollTo({ top: 0 }))
}

/** A link to another page opens it here. */
function follow(e: MouseEvent): void {
  const href = (e.target as HTMLElement).closest('a')?.getAttribute('href')
  if (!href || !page.value) return
  e.preventDefault()
  const to = guide.value?.linked(page.value, href)
  if (to && pages.value.some((p) => p.path === to)) show(to)
}

/** Where it stands, from the right and the top, always within the window. */
const place = computed(() => {
  const { right, top } = preferences.guidePlace
  return {
    right: `min(${Math.max(0, right)}px, calc(100vw - 400px))`,
    top: `min(${Math.max(0, top)}px, calc(100vh - 200px))`,
  }
})
function drag(e: PointerEvent): void {
  if (e.button !== 0 || (e.target as HTMLElement).closest('button')) return
  const { right, top } = preferences.guidePlace
  followPointer(e, (m) => {
    preferences.guidePlace = {
      right: Math.round(right - m.clientX + e.clientX),
      top: Math.round(top + m.clientY - e.clientY),
    }
  })
}
function keydown(e: KeyboardEvent): void {
  if (e.key !== 'Escape') return
  e.stopPropagation()
  screen.guide = false
}
</script>

<template>
  <aside
    class="fixed z-30 flex max-h-[70vh] w-100 flex-col border border-ink bg-sheet"
    :style="place"
    aria-label="Guide"
    data-region="guide"
    @keydown="keydown"
  >
    <header
      class="flex cursor-move touch-none items-center gap-2 border-b border-line px-3 py-1"
      title="Drag to move the guide"
      @pointerdown="drag"
    >
      <h2 class="panel-title flex-1">Guide</h2>
      <button
        class="small-button"
        :aria-pressed="isListed"
        title="Lists all pages"
        @click="isListed = !isListed"
      >
        Pages
      </button>
      <button
        class="small-button"
        aria-label="Close guide"
        title="Closes the guide (F1)"
        @click="screen.guide = false"
      >
        ×
      </button>
    </header>
    <input
      ref="field"
      v-model="query"
      class="field m-2 mb-1"
      type="search"
      placeholder="Search the guide"
      aria-label="Search the guide"
      @keydown.enter="found[0] && show(found[0].path)"
    />
    <p v-if="failed" role="alert" class="px-3 pb-2">
      The guide could not be loaded. Check the connection, then
      <button class="small-button" @click="load">Try again</button>
    </p>
    <nav
      v-if="isListed || query.trim()"
      class="min-h-0 overflow-y-auto px-3 pb-2"
      aria-label="Pages of the guide"
    >
      <p v-if="!groups.length" class="text-second">No page contains “{{ query }}”.</p>
      <section v-for="g in groups" :key="g.name">
        <h3 class="water-name pt-1 text-name">{{ g.name }}</h3>
        <ul>
          <li v-for="p in g.pages" :key="p.path">
            <button
              class="w-full text-left hover:underline"
              :aria-current="p.path === path ? 'page' : undefined"
              @click="show(p.path)"
            >
              {{ p.title }}
            </button>
          </li>
        </ul>
      </section>
    </nav>
    <!-- the pages are the project's own files, rendered without HTML of their own -->
    <!-- eslint-disable vue/no-v-html -->
    <article
      v-else
      ref="body"
      class="page min-h-0 overflow-y-auto px-3 pb-3 text-small"
      tabindex="0"
      :aria-label="page?.title"
      @click="follow"
      v-html="html"
    />
    <!-- eslint-enable vue/no-v-html -->
  </aside>
</template>

<style scoped>
.page :deep(h1) {
  font-family: var(--font-water);
  font-style: italic;
  font-size: 22px;
  line-height: 1.3;
  margin: 4px 0;
}
.page :deep(h2) {
  font-weight: 600;
  font-size: 15px;
  margin: 12px 0 2px;
}
.page :deep(p) {
  margin: 4px 0;
}
.page :deep(ol) {
  list-style: decimal;
  padding-left: 24px;
}
.page :deep(ul) {
  list-style: disc;
  padding-left: 20px;
}
.page :deep(li) {
  margin: 3px 0;
}
.page :deep(a) {
  text-decoration: underline;
}
.page :deep(code) {
  background: var(--shoal);
  padding: 0 3px;
}
.page :deep(img) {
  width: 100%;
  margin: 6px 0;
  border: 1px solid var(--line);
}
.page :deep(table) {
  border-collapse: collapse;
  margin: 6px 0;
}
.page :deep(th),
.page :deep(td) {
  border: 1px solid var(--line);
  padding: 1px 5px;
  text-align: left;
  vertical-align: top;
}
</style>
