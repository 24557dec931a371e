/** Checks the Dockerfile, and that it takes the steps that the tested commands take. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { validate } from 'dockerfile-utils'
import { fail, root } from './deps.mjs'

const text = readFileSync(join(root, 'Dockerfile'), 'utf8')
const faults = validate(text).map((f) => `line ${f.range.start.line + 1}: ${f.message}`)
for (const step of [
  'npm install --no-save',
  'npm run build',
  '.output/server/index.mjs',
  'dist/render-worker.mjs',
])
  if (!text.includes(step)) faults.push(`“${step}” is missing`)
if (faults.length) fail(`The Dockerfile is wrong: ${faults.join('; ')}.`)
