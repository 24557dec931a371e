/** The chain of an exported module, which is put in when it is exported. */
declare module 'oleaje:chain' {
  import type { PackedSound } from '@oleaje/core/chain-module/bundle'
  import type { ChainData } from '@oleaje/core/chain-module/chain-export'

  export const chain: ChainData
  export const sounds: Readonly<Record<string, PackedSound>>
}
