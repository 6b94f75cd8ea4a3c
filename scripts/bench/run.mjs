// `npm run bench [-- S|M|L|XL …]`: bundles the bench as the server's code is bundled, and runs it.
// A loader that translates files one by one wraps every function to keep its name, which costs a
// third of the time in code that makes many small functions.
import { spawnSync } from 'node:child_process'
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { build } from 'esbuild'
import { root } from '../machine/run.mjs'

const folder = join(root, 'node_modules/.cache/salt-trail')
mkdirSync(folder, { recursive: true })
const outfile = join(folder, 'bench.mjs')
await build({
  entryPoints: [join(root, 'scripts/bench/main.ts')],
  outfile,
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  alias: { '@salt-trail/core': join(root, 'core/src/index.ts') },
  logLevel: 'error',
})
// The young generation is as large as in the server's workers.
const flags = ['--max-semi-space-size=64', '--max-old-space-size=20000', outfile]
for (const part of [[], ['--changes']]) {
  const { status } = spawnSync(process.execPath, [...flags, ...part, ...process.argv.slice(2)], { stdio: 'inherit', cwd: root })
  if (status !== 0) process.exit(status ?? 1)
}
