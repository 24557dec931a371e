import type { ChildProcess } from 'node:child_process'

export declare function serve(port: number, quiet?: boolean): Promise<ChildProcess>
