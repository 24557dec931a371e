import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import ts from 'typescript'
import { parse } from 'vue/compiler-sfc'

/**
 * @typedef {{ file: string, line: number, kind: string, text: string }} Visible a string that a person can
 *   see or hear; `kind` is `text`, the name of an attribute or property, or `string` for one that reads like
 *   a sentence. Parts that are computed stand as `…`.
 */

/** Where visible strings can be: everything that runs in the page, the server or the command line. */
const places = ['app', 'core/src', 'server', 'cli/src', 'demo/src']

/** All visible strings of the project, in the order of files and lines. @returns {Visible[]} */
export function visibleStrings(root) {
  return places.flatMap((place) =>
    readdirSync(join(root, place), { recursive: true })
      .map((f) => `${place}/${f}`)
      .filter((f) => /\.(ts|vue)$/.test(f) && !/(^|\/)(test|\.nuxt|node_modules)\//.test(f))
      .sort()
      .flatMap((file) => {
        const text = readFileSync(join(root, file), 'utf8')
        return (file.endsWith('.vue') ? ofComponent(text) : ofScript(text, 0)).map((s) => ({ file, ...s }))
      }),
  )
}

const spoken = new Set(['title', 'aria-label', 'label', 'tip', 'placeholder', 'alt', 'name', 'text', 'hint'])
/** Properties whose strings are shown, whatever they look like. */
const shown = new Set(['name', 'label', 'tip', 'title', 'text', 'hint', 'note', 'unseen', 'description'])
/** Attributes that are never read by people. */
const silent = /^(class|style|key|ref|id|for|role|type|is|as|to|href|data-.*|:?key|mode|tabindex|d|fill)$/

function ofComponent(source) {
  const { descriptor } = parse(source)
  const found = []
  for (const script of [descriptor.script, descriptor.scriptSetup])
    if (script) found.push(...ofScript(script.content, script.loc.start.line - 1))
  if (descriptor.template?.ast) visit(descriptor.template.ast, found)
  return found.sort((a, b) => a.line - b.line)
}

function visit(node, found) {
  const line = node.loc.start.line
  if (node.type === 2) add(found, line, 'text', node.content)
  if (node.type === 5) fromExpression(node.content.loc.source, line, 'text', found)
  for (const prop of node.props ?? []) {
    if (prop.type === 6 && spoken.has(prop.name))
      add(found, prop.loc.start.line, prop.name, prop.value?.content)
    const name = prop.type === 7 ? (prop.arg?.content ?? '') : ''
    if (prop.type === 7 && prop.exp && !silent.test(name) && !/^(on|for|if|else-if|slot)$/.test(prop.name))
      fromExpression(prop.exp.loc.source, prop.loc.start.line, name, found, spoken.has(name))
    // what a step of undo is called stands in handlers
    if (prop.type === 7 && prop.name === 'on' && prop.exp)
      fromExpression(prop.exp.loc.source, prop.loc.start.line, 'step', found, false)
  }
  for (const child of node.children ?? []) visit(child, found)
}

function fromExpression(source, line, kind, found, all = kind === 'text') {
  for (const s of ofScript(`(${source})`, line - 1, all)) found.push({ ...s, kind: all ? kind : s.kind })
}

function add(found, line, kind, text) {
  const plain = (text ?? '').replace(/\s+/g, ' ').trim()
  if (/\p{L}/u.test(plain)) found.push({ line, kind, text: plain })
}

/** Strings of a script. @param all takes every string, not only those that read like words */
function ofScript(source, before, all = false) {
  const file = ts.createSourceFile('a.ts', source, ts.ScriptTarget.Latest, true, ts.ScriptKind.TS)
  const found = []
  const walk = (node) => {
    if (ts.isImportDeclaration(node) || ts.isTypeNode(node)) return
    if (ts.isStringLiteralLike(node) || ts.isTemplateExpression(node)) {
      const text = ts.isTemplateExpression(node)
        ? node.head.text + node.templateSpans.map((s) => `…${s.literal.text}`).join('')
        : node.text
      const kind = kindOf(node)
      const line = before + file.getLineAndCharacterOfPosition(node.getStart(file)).line + 1
      if (kind && (all || shown.has(kind) || readsLikeWords(text))) add(found, line, kind, text)
    }
    ts.forEachChild(node, walk)
  }
  walk(file)
  return found
}

/** What a string is for; empty for one that names things to the program alone. */
function kindOf(node) {
  let at = node.parent
  while (
    at &&
    (ts.isParenthesizedExpression(at) || ts.isConditionalExpression(at) || ts.isBinaryExpression(at))
  ) {
    if (ts.isBinaryExpression(at) && /^(===|!==)$/.test(at.operatorToken.getText())) return ''
    if (ts.isConditionalExpression(at) && at.condition === node) return ''
    at = at.parent
  }
  if (!at || ts.isElementAccessExpression(at) || ts.isLiteralTypeNode(at) || ts.isCaseClause(at)) return ''
  if (ts.isPropertyAssignment(at)) return at.name === node ? '' : at.name.getText().replace(/['"]/g, '')
  if (ts.isCallExpression(at)) {
    const called = at.expression.getText()
    if (
      /(querySelector|closest|matches|getContext|getPropertyValue|color|startsWith|endsWith|includes|split|join|addEventListener|removeEventListener|createElement|setAttribute|getAttribute|get|has|is|fixed|invoke)$/.test(
        called,
      )
    )
      return ''
  }
  return 'string'
}

/** Whether a string reads like words for people: two words at least, and no code. */
function readsLikeWords(text) {
  return (
    (/\p{L}{2,}/u.test(text) && /\s/.test(text.trim()) && !/^[\w-]+(\s[\w:[\]/.-]+)*$/.test(text.trim())) ||
    /^\p{Lu}[\p{L}’-]*[,:;]? \S/u.test(text.trim())
  )
}
