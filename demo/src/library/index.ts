import type { LibraryChain } from './chain-maker'
import { colour } from './colour'
import { dirt } from './dirt'
import { space } from './space'
import { time } from './time'

/** Every chain that ships. */
export const libraryChains: readonly LibraryChain[] = [...colour, ...dirt, ...time, ...space]
