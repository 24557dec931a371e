/**
 * `npm run words`: writes every string that a person can see or hear in Oleaje (labels, tooltips, messages,
 * accessible names) to `words.txt`, file by file, so that they can be read in one go.
 */
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { visibleStrings } from './visible-strings.mjs'
import { root } from './deps.mjs'

const found = visibleStrings(root)
const byFile = new Map()
for (const s of found) byFile.set(s.file, [...(byFile.get(s.file) ?? []), s])
const text = [...byFile]
  .map(([file, list]) => `## ${file}\n${list.map((s) => `${s.line}\t${s.kind}\t${s.text}`).join('\n')}\n`)
  .join('\n')
writeFileSync(join(root, 'words.txt'), text)
console.log(`${found.length} strings of ${byFile.size} files are in words.txt.`)
