import { limits, sentenceOf } from '../limits'

/** Text that is no JSON that could be taken. The message is a sentence. */
export class JsonTextError extends Error {
  override name = 'JsonTextError'
}

const FORBIDDEN = ['__proto__', 'constructor', 'prototype']

/**
 * Reads JSON that came from outside: not too long, too deep or too full, all of which is seen before anything
 * is built, and without names that mean something to the language.
 * @param what as it is called in sentences: “project file”
 * @throws JsonTextError
 */
export function readJson(text: string, what: string): unknown {
  // some editors put a byte order mark before the text
  if (text.charCodeAt(0) === 0xfeff) return readJson(text.slice(1), what)
  if (text.length > limits.projectText.most)
    throw new JsonTextError(sentenceOf('projectText', `${what} is ${Math.round(text.length / 1e6)} MB`))
  const { depth, values } = extent(text)
  if (depth > limits.jsonDepth.most) throw new JsonTextError(sentenceOf('jsonDepth', `${what} is`))
  if (values > limits.jsonValues.most) throw new JsonTextError(sentenceOf('jsonValues', `${what} has`))
  let made: unknown
  try {
    made = JSON.parse(text)
  } catch {
    throw new JsonTextError(`This is not a ${what}: its text is not valid JSON.`)
  }
  const name = forbiddenIn(made)
  if (name) throw new JsonTextError(`This ${what} has a forbidden name in it: ${name}.`)
  return made
}

/**
 * How deep brackets are nested, and how many values there are at least, without building any; no further than
 * a limit.
 */
function extent(text: string): { depth: number; values: number } {
  let depth = 0
  let deepest = 0
  let values = 1
  let quoted = false
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i)
    if (quoted) {
      if (c === 92) i++
      else if (c === 34) quoted = false
    } else if (c === 34) quoted = true
    else if (c === 44) values++
    else if (c === 123 || c === 91) {
      values++
      if (++depth > deepest) deepest = depth
      if (depth > limits.jsonDepth.most || values > limits.jsonValues.most) break
    } else if (c === 125 || c === 93) depth--
  }
  return { depth: deepest, values }
}

/** A name within data that means something to the language; undefined where there is none. */
function forbiddenIn(data: unknown): string | undefined {
  const waiting = [data]
  for (let at = waiting.pop(); at !== undefined || waiting.length > 0; at = waiting.pop()) {
    if (typeof at !== 'object' || at === null) continue
    if (!Array.isArray(at)) for (const name of FORBIDDEN) if (Object.hasOwn(at, name)) return name
    for (const value of Object.values(at) as unknown[])
      if (typeof value === 'object' && value !== null) waiting.push(value)
  }
  return undefined
}
