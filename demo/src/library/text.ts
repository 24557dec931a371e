import type { ShippedChain } from './shipped-chain'

const macrosOf = ({ preset }: ShippedChain): string =>
  preset.modulators
    .filter((m) => m.type === 'macro')
    .map((m) => m.name)
    .join(', ')

const signed = (x: number): string => `${x < 0 ? '−' : '+'}${Math.abs(x).toFixed(1)}`

/** The list of the library's chains as a page of the documentation. */
export const libraryText = (chains: readonly ShippedChain[]): string => `# The library

Oleaje ships ${chains.length} chains. Each was measured on a phrase of 5 seconds at −20 LUFS: its loudness against the dry sound, its true peak, and the figure that says what it is for. A test measures them again. \`npm run library\` writes this page.

| Chain | What it does | Macros | Tags | Suits | Measured on | What it is for, measured | LU | dBTP |
|---|---|---|---|---|---|---|---|---|
${chains
  .map((c) =>
    [
      '',
      c.preset.name,
      c.preset.about,
      macrosOf(c),
      c.preset.tags.join(', '),
      c.preset.materials.join(', '),
      c.phrase,
      c.measured.point,
      signed(c.measured.louder),
      c.measured.truePeak.toFixed(1).replace('-', '−'),
      '',
    ]
      .join(' | ')
      .trim(),
  )
  .join('\n')}
`
