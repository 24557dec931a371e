/** A time as a clock shows it: 1:55:11.37, or 3:07.5, or 0:00. */
export function clockText(seconds: number): string {
  const ms = Math.round(seconds * 1000)
  const [hours, minutes, rest] = [Math.floor(ms / 3_600_000), Math.floor(ms / 60_000) % 60, ms % 60_000]
  const fraction = String(rest % 1000)
    .padStart(3, '0')
    .replace(/0+$/, '')
  const two = (n: number): string => String(n).padStart(2, '0')
  return `${hours > 0 ? `${hours}:${two(minutes)}` : minutes}:${two(Math.floor(rest / 1000))}${fraction ? `.${fraction}` : ''}`
}

/**
 * Seconds of a time as {@link clockText} writes it, or of a plain number of seconds. @throws a sentence for
 * anything else
 */
export function readClock(text: string): number {
  const parts = text.trim().replace(',', '.').split(':')
  const wrong =
    parts.length > 3 ||
    parts.some(
      (part, i) =>
        !(i === parts.length - 1 ? /^\d+(\.\d*)?$/ : /^\d+$/).test(part) || (i > 0 && Number(part) >= 60),
    )
  if (wrong) throw new Error('Enter a time such as 1:55:11.37, or seconds.')
  return parts.reduce((sum, part) => 60 * sum + Number(part), 0)
}
