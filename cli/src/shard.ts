/** Which part of a list this machine does: part `index` of `count`, from 0. */
export interface Shard {
  readonly index: number
  readonly count: number
}

/**
 * The part that this process does: as written (`3/8` is the third of eight), or as the scheduler says that
 * started it. Slurm job arrays, AWS Batch arrays, Kubernetes indexed jobs and GNU parallel number their jobs
 * in the environment; the last two do not say how many there are, which `OLEAJE_SHARDS` does.
 * @throws with a sentence
 */
export function shardOf(
  written: string | undefined,
  env: Readonly<Record<string, string | undefined>>,
): Shard {
  if (written !== undefined) {
    const [, index, count] = /^(\d+)\/(\d+)$/.exec(written) ?? []
    return checked(
      Number(index) - 1,
      Number(count),
      `--shard is like 3/8, the third part of eight; not “${written}”.`,
    )
  }
  const number = (name: string): number => (env[name] === undefined ? NaN : Number(env[name]))
  if (env.SLURM_ARRAY_TASK_ID !== undefined) {
    const first = number('SLURM_ARRAY_TASK_MIN') || 0
    const step = number('SLURM_ARRAY_TASK_STEP') || 1
    return checked(
      (number('SLURM_ARRAY_TASK_ID') - first) / step,
      number('SLURM_ARRAY_TASK_COUNT'),
      'The Slurm array must have evenly numbered tasks, such as --array=1-8.',
    )
  }
  if (env.AWS_BATCH_JOB_ARRAY_INDEX !== undefined)
    return checked(
      number('AWS_BATCH_JOB_ARRAY_INDEX'),
      number('AWS_BATCH_JOB_ARRAY_SIZE') || number('OLEAJE_SHARDS'),
      'Say in OLEAJE_SHARDS how many jobs the AWS Batch array has.',
    )
  if (env.JOB_COMPLETION_INDEX !== undefined)
    return checked(
      number('JOB_COMPLETION_INDEX'),
      number('OLEAJE_SHARDS'),
      'Say in OLEAJE_SHARDS how many completions the Kubernetes job has.',
    )
  if (env.PARALLEL_SEQ !== undefined && env.OLEAJE_SHARDS !== undefined)
    return checked(
      number('PARALLEL_SEQ') - 1,
      number('OLEAJE_SHARDS'),
      'OLEAJE_SHARDS must be the number of jobs of GNU parallel.',
    )
  return { index: 0, count: 1 }
}

function checked(index: number, count: number, otherwise: string): Shard {
  if (Number.isInteger(index) && Number.isInteger(count) && index >= 0 && index < count && count <= 1e6)
    return { index, count }
  throw new Error(otherwise)
}

/** Whether something known by its content hash belongs to a part: by its first 48 bits. */
export const isInShard = (hash: string, { index, count }: Shard): boolean =>
  parseInt(hash.slice(0, 12), 16) % count === index
