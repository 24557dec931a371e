import tailwindcss from '@tailwindcss/vite'

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  ssr: false,
  telemetry: false,
  devtools: { enabled: false },
  modules: ['@pinia/nuxt', 'nuxt-security'],
  css: ['~/assets/main.css'],
  components: [{ path: '~/components', pathPrefix: false }],
  app: {
    head: {
      title: 'Oleaje',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'description', content: 'A workbench for modulated audio effect chains.' }],
    },
  },
  vite: {
    plugins: [tailwindcss()],
    worker: { format: 'es' },
    // the page's policy takes fonts from its own files only
    build: { target: 'es2022', assetsInlineLimit: (file) => (/\.woff2?$/.test(file) ? false : undefined) },
  },
  typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true } } },
  nitro: {
    serverAssets: [{ baseName: 'demo', dir: '../demo/assets' }],
    compressPublicAssets: true,
  },
  routeRules: {
    // worker and worklet scripts must say themselves that they are isolated
    '/_nuxt/**': {
      headers: {
        'cache-control': 'public, max-age=31536000, immutable',
        'cross-origin-embedder-policy': 'require-corp',
        'cross-origin-opener-policy': 'same-origin',
        'cross-origin-resource-policy': 'same-origin',
        'content-security-policy': "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'",
      },
    },
  },
  security: {
    headers: {
      crossOriginOpenerPolicy: 'same-origin',
      crossOriginEmbedderPolicy: 'require-corp',
      crossOriginResourcePolicy: 'same-origin',
      contentSecurityPolicy: {
        'default-src': ["'self'"],
        'script-src': ["'self'", "'nonce-{{nonce}}'", "'wasm-unsafe-eval'"],
        'style-src': ["'self'", "'unsafe-inline'"],
        'img-src': ["'self'", 'data:', 'blob:'],
        'font-src': ["'self'"],
        'connect-src': ["'self'"],
        'worker-src': ["'self'", 'blob:'],
        'object-src': ["'none'"],
        'base-uri': ["'none'"],
        'form-action': ["'none'"],
        'frame-ancestors': ["'none'"],
        'upgrade-insecure-requests': false,
      },
      permissionsPolicy: { microphone: ['self'], midi: ['self'], camera: [], geolocation: [] },
      strictTransportSecurity: false,
    },
    rateLimiter: false,
    requestSizeLimiter: false,
    xssValidator: false,
    corsHandler: false,
  },
})
