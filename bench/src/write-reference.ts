import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { referencePages } from '@oleaje/core/reference'

/** `npm run reference`: writes the pages of docs/reference that follow from the definitions. */
const folder = join(process.env.OLEAJE_ROOT ?? '.', 'docs/reference')
mkdirSync(folder, { recursive: true })
for (const [name, text] of Object.entries(referencePages())) writeFileSync(join(folder, name), text)
