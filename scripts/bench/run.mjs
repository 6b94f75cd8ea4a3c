// `npm run bench [-- S|M|L …]`: what the core does, on estates of each size, in one process.
import { spawnSync } from 'node:child_process'
import { root } from '../machine/run.mjs'
import { bundled } from './bundle.mjs'

// The young generation is as large as in the server's workers.
const flags = ['--max-semi-space-size=64', '--max-old-space-size=20000', await bundled('main.ts')]
for (const part of [[], ['--changes']]) {
  const { status } = spawnSync(process.execPath, [...flags, ...part, ...process.argv.slice(2)], { stdio: 'inherit', cwd: root })
  if (status !== 0) process.exit(status ?? 1)
}
