import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { limitsPage } from '@oleaje/core/limits'

/** `npm run limits`: writes docs/limits.md anew. */
writeFileSync(join(process.env.OLEAJE_ROOT ?? '.', 'docs/limits.md'), limitsPage())
