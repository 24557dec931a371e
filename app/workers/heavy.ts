import { expose } from 'comlink'
import { exportWork } from './export-work'
import { fileWork } from './file-work'
import { labWork } from './lab-work'
import { running } from './jobs'
import { matchWork } from './match-work'
import { matterWork } from './matter-work'
import { renderWork } from './render-work'
import { soundWork } from './sound-work'
import { trialWork } from './trial-work'

/** Everything that takes long, off the main thread. Errors carry their sentence as message. */
const heavy = {
  ...soundWork,
  ...exportWork,
  ...fileWork,
  ...labWork,
  ...matchWork,
  ...matterWork,
  ...trialWork,
  ...renderWork,

  cancel(job: number): void {
    running.delete(job)
  },
}

export type Heavy = typeof heavy

// Errors are thrown as plain ones: a class of its own would lose its message on the way through the port.
expose(
  Object.fromEntries(
    Object.entries(heavy).map(([name, f]) => [
      name,
      async (...args: never[]) => {
        try {
          return await (f as (...a: never[]) => unknown)(...args)
        } catch (error) {
          throw new Error(error instanceof Error ? error.message : String(error))
        }
      },
    ]),
  ),
)
