export function startSlurm(): Promise<{ env: NodeJS.ProcessEnv; stop: () => void }>
