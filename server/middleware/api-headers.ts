import { defineEventHandler, setHeaders } from 'h3'

/** API responses are data: never a page, never part of another site. */
export default defineEventHandler((event) => {
  if (!event.path.startsWith('/api/')) return
  setHeaders(event, {
    'content-security-policy': "default-src 'none'; frame-ancestors 'none'",
    'cross-origin-opener-policy': 'same-origin',
    'cross-origin-embedder-policy': 'require-corp',
    'cross-origin-resource-policy': 'same-origin',
    'x-content-type-options': 'nosniff',
    'x-frame-options': 'DENY',
    'referrer-policy': 'no-referrer',
  })
})
