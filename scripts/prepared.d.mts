/** Writes what the modules of the app declare, where it is not there or has changed. */
export declare function ensurePrepared(): void
