import { isMainThread } from 'node:worker_threads'
import { defineCommand, runMain } from 'citty'
import { type BatchJob, runBatchJob } from './batch-job'
import { checkCommand } from './check'
import { measureCommand } from './measure'
import { type RecordJob, runRecordJob } from './record-job'
import { renderCommand } from './render'

/** In a thread this program is a worker: of a batch, or of a render that is divided. */
const work = (job: BatchJob | RecordJob): Promise<unknown> =>
  'share' in job ? runRecordJob(job) : runBatchJob(job)
export default work

if (isMainThread)
  void runMain(
    defineCommand({
      meta: { name: 'oleaje', description: 'Oleaje on the command line' },
      subCommands: { render: renderCommand, measure: measureCommand, check: checkCommand },
    }),
  )
