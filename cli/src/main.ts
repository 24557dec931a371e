import { isMainThread } from 'node:worker_threads'
import { defineCommand, runMain } from 'citty'
import { type BatchJob, runBatchJob } from './batch-job'
import { checkCommand } from './check'
import { matchCommand } from './match'
import { type MatchJob, runMatchJob } from './match-job'
import { measureCommand } from './measure'
import { type RecordJob, runRecordJob } from './record-job'
import { renderCommand } from './render'

/** In a thread this program is a worker: of a batch, of a render that is divided, or of a search. */
const work = (job: BatchJob | RecordJob | MatchJob): Promise<unknown> =>
  'share' in job ? runRecordJob(job) : 'places' in job ? runMatchJob(job) : runBatchJob(job)
export default work

if (isMainThread)
  void runMain(
    defineCommand({
      meta: { name: 'oleaje', description: 'Oleaje on the command line' },
      subCommands: {
        render: renderCommand,
        measure: measureCommand,
        check: checkCommand,
        match: matchCommand,
      },
    }),
  )
