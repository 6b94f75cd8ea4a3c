// `npm run bench [-- S|M|L|largest|changes …]`: what the core does, on estates of each size, each
// part in a process of its own; `changes` alone measures what changes bring about.
// `npm run bench -- shapes [NAME …] [SUBNETS]`: what `check` takes on each shape of estate.
import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { root } from '../machine/run.mjs'
import { bundled } from './bundle.mjs'
import { benchShapes } from './shapes.mjs'

// The young generation is as large as in the server's workers.
const flags = ['--max-semi-space-size=64', '--max-old-space-size=20000']

function part(script, ...words) {
  const { status } = spawnSync(process.execPath, [...flags, script, ...words], {
    stdio: 'inherit',
    cwd: root,
  })
  if (status !== 0) throw new Error(`${words.join(' ') || 'the bench'} ended with ${status}`)
}

function benchLargest(largest) {
  const folder = mkdtempSync(join(tmpdir(), 'salt-trail-bench-'))
  try {
    const file = join(folder, 'largest.json')
    part(largest, 'make', file)
    part(largest, 'read', file)
  } finally {
    rmSync(folder, { recursive: true })
  }
}

const words = process.argv.slice(2)
if (words[0] === 'shapes') {
  benchShapes(await bundled('shapes.ts'), flags, words.slice(1))
  process.exit()
}
const sizes = words.filter((word) => word !== 'largest' && word !== 'changes')
const main = await bundled('main.ts')
const changesAlone = words.includes('changes')
const named = !changesAlone && (words.length === 0 || sizes.length > 0)
if (named) part(main, ...sizes)
if (words.includes('largest') || words.length === 0) benchLargest(await bundled('largest.ts'))
if (named || changesAlone) {
  part(main, '--changes', ...sizes)
  part(main, '--consequences', ...sizes)
}
