/** Decimals of each unit; others have four digits. */
const decimals: Readonly<Record<string, number>> = { dB: 2, dBFS: 2, LUFS: 1, samples: 0 }

/** A measured value with its unit, as figures and cursors show it; a dash where there is none. */
export function figureText(value: number | null, unit: string): string {
  if (value === null || Number.isNaN(value)) return '—'
  const places = unit === 'Hz' ? (value >= 100 ? 0 : 1) : decimals[unit]
  const text =
    places === undefined ? String(Number(Number(value.toPrecision(4)).toFixed(5))) : value.toFixed(places)
  // nothing below zero is shown as zero
  return `${text.replace(/^-(?=[0.]*$)/, '').replace('-', '−')}${unit ? ` ${unit}` : ''}`
}
