import MarkdownIt from 'markdown-it'
import MiniSearch from 'minisearch'
import { guidePictures, guideTexts } from './guide-pages'

/** A page of the guide. */
export interface GuidePage {
  /** Path within docs/, such as `guide/gated-repeater.md`. */
  readonly path: string
  readonly title: string
  readonly group: 'Walk-throughs' | 'Reference'
  readonly text: string
}

/** The guide as it is shown: its pages, and what can be done with them. */
export interface Guide {
  /** The walk-throughs in their order, then the glossary and the reference. */
  readonly pages: readonly GuidePage[]
  /** Pages by relevance, the best first; all of them for an empty text. */
  search(query: string): readonly GuidePage[]
  /** HTML of a page, with its pictures at the addresses at which the app has them. */
  render(page: GuidePage): string
  /** The page that a link of a page leads to; null for a link to anywhere else. */
  linked(from: GuidePage, href: string): string | null
}

/**
 * Reads the guide.
 * @param texts Markdown by file @param pictures addresses by file
 */
export function openGuide(
  texts: Readonly<Record<string, string>> = guideTexts,
  pictures: Readonly<Record<string, string>> = guidePictures,
): Guide {
  const pages = readPages(texts)
  return {
    pages,
    search: searchOf(pages),
    render: (page) => renderPage(page, pictures),
    linked: linkedPage,
  }
}

const INDEX = 'guide/README.md'
const pathOf = (file: string): string => file.slice(file.indexOf('docs/') + 'docs/'.length)
const titleOf = (text: string): string => /^# (.+)$/m.exec(text)?.[1] ?? ''

/** The order of the walk-throughs is that of their list in the index. */
const listed = (index: string): string[] =>
  [...index.matchAll(/\]\(([\w-]+\.md)\)/g)].map((m) => `guide/${m[1] ?? ''}`)

/** All pages: the walk-throughs in their order, then the glossary and the reference. */
function readPages(texts: Readonly<Record<string, string>>): GuidePage[] {
  const pages = Object.entries(texts).map(([file, text]): GuidePage => {
    const path = pathOf(file)
    const group = path.startsWith('guide/') ? 'Walk-throughs' : 'Reference'
    return { path, title: titleOf(text), group, text }
  })
  const order = listed(pages.find((p) => p.path === INDEX)?.text ?? '')
  const rank = (p: GuidePage): number => (p.path === INDEX ? -1 : order.indexOf(p.path))
  return pages
    .filter((p) => p.group === 'Reference' || rank(p) >= -1)
    .sort((a, b) => (a.group === b.group ? rank(a) - rank(b) : a.group === 'Walk-throughs' ? -1 : 1))
}

/** Where a link of a page leads: the path of another page, or null. */
function linkedPage(from: GuidePage, href: string): string | null {
  const url = new URL(href, `https://docs.invalid/${from.path}`)
  return url.host === 'docs.invalid' ? url.pathname.slice(1) : null
}

/** HTML of a page, with its pictures by the addresses at which the app has them. */
function renderPage(page: GuidePage, pictures: Readonly<Record<string, string>>): string {
  // pages are the project's own; HTML in them is shown as text
  const markdown = new MarkdownIt({ html: false, typographer: false })
  const byPath = new Map(Object.entries(pictures).map(([file, url]) => [pathOf(file), url]))
  const image = markdown.renderer.rules.image
  markdown.renderer.rules.image = (tokens, i, options, env, self) => {
    const token = tokens[i]
    const path = token && linkedPage(page, String(token.attrGet('src') ?? ''))
    const url = path ? byPath.get(path) : undefined
    if (!token || !url) return ''
    token.attrSet('src', url)
    return image?.(tokens, i, options, env, self) ?? ''
  }
  return markdown.render(page.text)
}

/** A search over all pages; gives them by relevance, the best first. */
function searchOf(pages: readonly GuidePage[]): (query: string) => GuidePage[] {
  const index = new MiniSearch<GuidePage>({
    idField: 'path',
    fields: ['title', 'text'],
    searchOptions: { boost: { title: 4 }, prefix: true, fuzzy: 0.15, combineWith: 'AND' },
  })
  index.addAll(pages)
  return (query) =>
    query.trim()
      ? index.search(query).flatMap(({ id }) => pages.find((p) => p.path === id) ?? [])
      : [...pages]
}
