/** GNU parallel, and Slurm with all its parts on this machine, for the long form of the batch tests. */
import { execFileSync, spawnSync } from 'node:child_process'
import { chownSync, existsSync, mkdirSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { availableParallelism, hostname, tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { say } from './deps.mjs'

const PACKAGES = ['parallel', 'slurm-wlm', 'munge']
const PROGRAMS = ['/usr/bin/parallel', '/usr/sbin/slurmctld', '/usr/sbin/slurmd', '/usr/sbin/munged']

/** Installs them with apt where they are missing. Throws where that is not possible. */
function ensureSchedulers() {
  if (PROGRAMS.every((p) => existsSync(p))) return
  say('installing GNU parallel and Slurm (apt-get)')
  execFileSync('apt-get', ['update', '-qq'], { stdio: 'ignore' })
  execFileSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...PACKAGES], {
    stdio: 'ignore',
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  })
}

/**
 * Starts Slurm with one node, which is this machine. Needs root.
 * @returns the environment for its commands, and what ends it
 */
export async function startSlurm() {
  ensureSchedulers()
  const folder = mkdtempSync(join(tmpdir(), 'oleaje-slurm-'))
  const host = hostname().split('.')[0]
  const conf = join(folder, 'slurm.conf')
  for (const name of ['state', 'spool']) mkdirSync(join(folder, name))
  writeFileSync(
    conf,
    `ClusterName=oleaje
SlurmctldHost=${host}(127.0.0.1)
AuthType=auth/munge
ProctrackType=proctrack/pgid
TaskPlugin=task/none
SelectType=select/cons_tres
SelectTypeParameters=CR_CPU
SlurmUser=root
SlurmdUser=root
StateSaveLocation=${folder}/state
SlurmdSpoolDir=${folder}/spool
SlurmctldPidFile=${folder}/slurmctld.pid
SlurmdPidFile=${folder}/slurmd.pid
SlurmctldLogFile=${folder}/slurmctld.log
SlurmdLogFile=${folder}/slurmd.log
MpiDefault=none
ReturnToService=2
NodeName=${host} NodeAddr=127.0.0.1 CPUs=${availableParallelism()} State=UNKNOWN
PartitionName=all Nodes=${host} Default=YES MaxTime=INFINITE State=UP
`,
  )
  const env = { ...process.env, SLURM_CONF: conf }
  mkdirSync('/run/munge', { recursive: true })
  const { uid, gid } = statSync('/etc/munge')
  chownSync('/run/munge', uid, gid)
  // one that runs already is as good
  spawnSync('/usr/sbin/munged', [], { uid, gid, stdio: 'ignore' })
  execFileSync('/usr/sbin/slurmctld', [], { env, stdio: 'ignore' })
  execFileSync('/usr/sbin/slurmd', ['-N', host], { env, stdio: 'ignore' })
  for (let n = 0; n < 60; n++) {
    if (/\bidle\b/.test(spawnSync('sinfo', [], { env, encoding: 'utf8' }).stdout)) break
    await sleep(500)
  }
  return {
    env,
    stop() {
      spawnSync('scontrol', ['shutdown'], { env, stdio: 'ignore' })
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
