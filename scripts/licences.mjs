/**
 * Licences under which a package may ship with Oleaje, which is itself under Apache-2.0. Those of the LGPL
 * kind are fit because the whole source is open: anyone can build the app with another version of the
 * package.
 */
export const allowed = new Set([
  '0BSD',
  'Apache-2.0',
  'BlueOak-1.0.0',
  'BSD-2-Clause',
  'BSD-3-Clause',
  'CC0-1.0',
  'ISC',
  'LGPL-3.0-or-later',
  'MIT',
  'MPL-2.0',
  'OFL-1.1',
  'Unlicense',
])

/**
 * Whether a licence expression ("MIT OR CC0-1.0") offers one that is on the list, and each that it joins by
 * AND is.
 */
export const isAllowed = (expression) =>
  String(expression ?? '')
    .replace(/[()]/g, '')
    .split(/\s+OR\s+/)
    .some((choice) => choice.split(/\s+AND\s+/).every((licence) => allowed.has(licence.trim())))
