import { cpSync } from 'node:fs'
import { join } from 'node:path'
import { build } from 'esbuild'
import { defineNuxtModule } from 'nuxt/kit'

/**
 * Puts beside the server what it reads as files: migrations, the demo, the examples, and the code
 * of its workers.
 */
export default defineNuxtModule({
  meta: { name: 'server-files' },
  setup(_options, nuxt) {
    const { rootDir, buildDir } = nuxt.options
    const bundleWorkers = (folder: string) =>
      build({
        entryPoints: {
          ...Object.fromEntries(
            ['analysis', 'answers', 'comparison', 'drafts', 'proposals', 'reading'].map((name) => [
              name,
              join(rootDir, 'server', name, 'worker.ts'),
            ]),
          ),
          'analysis-process': join(rootDir, 'server/analysis/process.ts'),
        },
        outdir: folder,
        outExtension: { '.js': '.mjs' },
        bundle: true,
        platform: 'node',
        format: 'esm',
        target: 'node20',
        mainFields: ['module', 'main'],
        external: ['pg-native'],
        // Packages written as CommonJS ask for Node's own modules this way.
        banner: {
          js: "import { createRequire } from 'node:module'; const require = createRequire(import.meta.url);",
        },
      })
    nuxt.hook('nitro:init', (nitro) => {
      if (nuxt.options.dev)
        nitro.hooks.hook('build:before', () =>
          bundleWorkers(join(buildDir, 'workers')).then(() => undefined),
        )
      nitro.hooks.hook('compiled', async () => {
        const target = nitro.options.output.serverDir
        for (const [from, to] of [
          ['server/database/migrations', 'migrations'],
          ['demo', 'demo'],
          ['examples', 'examples'],
        ] as const) {
          cpSync(join(rootDir, from), join(target, to), { recursive: true })
        }
        await bundleWorkers(join(target, 'workers'))
      })
    })
  },
})
