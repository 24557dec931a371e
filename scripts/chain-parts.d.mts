import type { ChainParts } from '../core/src/chain-module/bundle'

/** Everything that exported chains are put together from. */
export declare function chainParts(): Promise<ChainParts>
/** Writes it to a folder that is served, as `chain-parts.json`. */
export declare function writeChainParts(folder: string): Promise<void>
