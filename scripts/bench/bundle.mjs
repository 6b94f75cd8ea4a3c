import { mkdirSync } from 'node:fs'
import { basename, join } from 'node:path'
import { build } from 'esbuild'
import { root } from '../machine/run.mjs'

/**
 * Bundles a program of the bench as the server's code is bundled, and says where it lies. A loader
 * that translates files one by one wraps every function to keep its name, which costs a third of
 * the time in code that makes many small functions.
 */
export async function bundled(file) {
  const folder = join(root, 'node_modules/.cache/salt-trail')
  mkdirSync(folder, { recursive: true })
  const outfile = join(folder, `bench-${basename(file, '.ts')}.mjs`)
  await build({
    entryPoints: [join(root, 'scripts/bench', file)],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    alias: { '@salt-trail/core': join(root, 'core/src/index.ts') },
    logLevel: 'error',
  })
  return outfile
}
