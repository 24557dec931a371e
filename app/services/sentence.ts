/** The message of an error, as one sentence. */
export function sentence(error: unknown): string {
  const text = error instanceof Error ? error.message : String(error)
  return text.replace(/^(Error|TypeError): /, '')
}
