import { cpSync } from 'node:fs'
import { join } from 'node:path'
import { defineNuxtModule } from 'nuxt/kit'

/** Puts what the server reads as files beside it: migrations, the demo, the examples. */
export default defineNuxtModule({
  meta: { name: 'server-files' },
  setup(_options, nuxt) {
    nuxt.hook('nitro:init', (nitro) => {
      nitro.hooks.hook('compiled', () => {
        const { rootDir } = nuxt.options
        const target = nitro.options.output.serverDir
        for (const [from, to] of [
          ['server/database/migrations', 'migrations'],
          ['demo', 'demo'],
          ['examples', 'examples'],
        ] as const) {
          cpSync(join(rootDir, from), join(target, to), { recursive: true })
        }
      })
    })
  },
})
