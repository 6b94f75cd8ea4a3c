import { fileURLToPath } from 'node:url'
import tailwindcss from '@tailwindcss/vite'

export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  // A build works in a folder of its own: types and lint read the other one meanwhile.
  buildDir: process.env.SALT_TRAIL_BUILD_FOLDER ?? '.nuxt',
  // A workbench: nothing of it is read by crawlers, and all of it is computed data.
  ssr: false,
  telemetry: false,
  devtools: { enabled: false },
  modules: ['@pinia/nuxt', '@vueuse/nuxt', '@nuxt/eslint'],
  components: [
    'views',
    'access',
    'consequences',
    'objects',
    'shell',
    'marks',
    'tables',
    'help',
    'guide',
  ].map((folder) => ({
    path: `~/${folder}`,
    pathPrefix: false,
  })),
  css: ['~/assets/main.css'],
  app: {
    head: {
      title: 'Salt Trail',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/salt-trail.svg' }],
    },
  },
  vite: { plugins: [tailwindcss()], worker: { format: 'es' } },
  nitro: {
    preset: 'node-server',
  },
  hooks: {
    // Before those of pages: it tells errors of the API.
    'nitro:init': (nitro) => {
      const own = fileURLToPath(new URL('server/http/errors.ts', import.meta.url))
      nitro.options.errorHandler = [own, nitro.options.errorHandler ?? []].flat()
    },
  },
  typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true } } },
  eslint: { config: { stylistic: false } },
})
