import tailwindcss from '@tailwindcss/vite'
import { writeChainParts } from './scripts/chain-parts.mjs'
import { collectNotices, writeNotices } from './scripts/notices.mjs'

const views = ['/', '/timeline', '/links', '/try-outs', '/shelf', '/lab', '/render']
const notices = '.nuxt/notices'
const chainParts = '.nuxt/chain-parts'

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  ssr: false,
  telemetry: false,
  devtools: { enabled: false },
  modules: ['@pinia/nuxt', 'nuxt-security', '@vite-pwa/nuxt'],
  css: ['~/assets/main.css'],
  components: [{ path: '~/components', pathPrefix: false }],
  app: {
    head: {
      title: 'Oleaje',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'description', content: 'A workbench for modulated audio effect chains.' }],
      link: [
        { rel: 'icon', href: '/favicon.ico', sizes: '48x48' },
        { rel: 'icon', href: '/icon.svg', type: 'image/svg+xml' },
      ],
    },
  },
  vite: {
    plugins: [tailwindcss(), collectNotices()],
    worker: { format: 'es', plugins: () => [collectNotices()] },
    // the page's policy takes fonts from its own files only
    build: { target: 'es2022', assetsInlineLimit: (file) => (/\.woff2?$/.test(file) ? false : undefined) },
  },
  typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true } } },
  nitro: {
    // files, so that any static host and the service worker can give them
    publicAssets: [
      { baseURL: 'demo', dir: '../demo/assets' },
      { baseURL: '/', dir: `../${notices}` },
      { baseURL: '/', dir: `../${chainParts}` },
    ],
    compressPublicAssets: true,
    // the folder .output/public is whole: a static host needs no server
    prerender: { routes: [...views, '/200.html', '/404.html'], crawlLinks: false },
  },
  hooks: {
    'build:before': () => writeChainParts(chainParts),
    'build:done': () => writeNotices(notices),
  },
  // after the first visit the app needs no network; a new version waits until it is asked for
  pwa: {
    registerType: 'prompt',
    manifest: {
      name: 'Oleaje',
      short_name: 'Oleaje',
      description: 'A workbench for modulated audio effect chains.',
      theme_color: '#f7f3e8',
      background_color: '#f7f3e8',
      display: 'standalone',
      icons: [
        { src: 'icon-192.png', sizes: '192x192', type: 'image/png' },
        { src: 'icon-512.png', sizes: '512x512', type: 'image/png' },
        { src: 'icon-512.png', sizes: '512x512', type: 'image/png', purpose: 'maskable' },
        { src: 'icon.svg', sizes: 'any', type: 'image/svg+xml' },
      ],
    },
    workbox: {
      globPatterns: ['**/*.{js,css,html,woff2,json,wav,svg,png,ico,wasm}'],
      // every view is the same page
      globIgnores: ['200.html', '404.html', ...views.slice(1).map((view) => `${view.slice(1)}/**`)],
      maximumFileSizeToCacheInBytes: 8_000_000,
      navigateFallback: '/',
      navigateFallbackDenylist: [/^\/api\//],
    },
  },
  routeRules: {
    // these say by themselves how they are asked for
    '/api/**': { security: { allowedMethodsRestricter: false } },
    // worker and worklet scripts must say themselves that they are isolated
    '/_nuxt/**': {
      headers: {
        'cache-control': 'public, max-age=31536000, immutable',
        'cross-origin-embedder-policy': 'require-corp',
        'cross-origin-opener-policy': 'same-origin',
        'cross-origin-resource-policy': 'same-origin',
        // the encoders of FLAC and MP3 have a worker of their own, which is part of their script
        'content-security-policy':
          "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; worker-src 'self' blob:",
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
    allowedMethodsRestricter: { methods: ['GET', 'HEAD'] },
    rateLimiter: false,
    requestSizeLimiter: false,
    xssValidator: false,
    corsHandler: false,
  },
})
