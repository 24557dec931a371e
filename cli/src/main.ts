import { isMainThread } from 'node:worker_threads'
import { defineCommand, runMain } from 'citty'
import { runBatchJob } from './batch-job'
import { checkCommand } from './check'
import { measureCommand } from './measure'
import { renderCommand } from './render'

/** In a thread of a batch this program is its worker. */
export default runBatchJob

if (isMainThread)
  void runMain(
    defineCommand({
      meta: { name: 'oleaje', description: 'Oleaje on the command line' },
      subCommands: { render: renderCommand, measure: measureCommand, check: checkCommand },
    }),
  )
