/** Characters of a file, at most. */
const LONGEST = 32 * 1024 * 1024
/** Brackets inside brackets, at most. */
const DEEPEST = 100

/** Text that is no JSON that could be taken. The message is a sentence. */
export class JsonTextError extends Error {
  override name = 'JsonTextError'
}

/**
 * Reads JSON that came from outside: not too long, not too deep, and without names that mean something to the language.
 * @param what as it is called in sentences: “project file”
 * @throws JsonTextError
 */
export function readJson(text: string, what: string): unknown {
  if (text.length > LONGEST) throw new JsonTextError(`This ${what} is ${Math.round(text.length / 1e6)} MB long; at most ${LONGEST / 1024 / 1024} MB can be read.`)
  if (tooDeep(text, DEEPEST)) throw new JsonTextError(`This ${what} is nested too deeply to be one.`)
  try {
    return JSON.parse(text, (key, value: unknown) => {
      if (key === '__proto__' || key === 'constructor' || key === 'prototype') throw new JsonTextError(`This ${what} has a forbidden name in it: ${key}.`)
      return value
    })
  } catch (error) {
    if (error instanceof JsonTextError) throw error
    throw new JsonTextError(`This is not a ${what}: its text is not valid JSON.`)
  }
}

/** Whether brackets are nested beyond a limit; a parser would meet them on the stack. */
function tooDeep(text: string, limit: number): boolean {
  let depth = 0
  let quoted = false
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i)
    if (quoted) {
      if (c === 92) i++
      else if (c === 34) quoted = false
    } else if (c === 34) quoted = true
    else if (c === 123 || c === 91) {
      if (++depth > limit) return true
    } else if (c === 125 || c === 93) depth--
  }
  return false
}
