// `npm run compare -- [REVISION] [--estates 500]`: whether the working tree answers as a revision
// does (HEAD where none is named): `check`, `hops`, `ways-in`, `trace` and `diff` as JSON, on the
// demo, the examples, all fixtures and random estates. Words for people and mends are left aside.
import { spawn, spawnSync } from 'node:child_process'
import { createReadStream, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { pathToFileURL } from 'node:url'
import { parseArgs } from 'node:util'
import { build } from 'esbuild'
import { root } from '../machine/run.mjs'

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { estates: { type: 'string', default: '500' } },
})
const [revision = 'HEAD'] = positionals
const folder = mkdtempSync(join(tmpdir(), 'salt-trail-builds-'))
const git = (...args) => {
  const { status, stderr } = spawnSync('git', args, { cwd: root, encoding: 'utf8' })
  if (status !== 0) throw new Error(`git ${args.join(' ')}: ${stderr}`)
}

async function bundle(entry, checkout, name) {
  const outfile = join(folder, `${name}.mjs`)
  await build({
    entryPoints: [join(checkout, entry)],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    mainFields: ['module', 'main'],
    nodePaths: [join(root, 'node_modules')],
    alias: { '@salt-trail/core': join(checkout, 'core/src/index.ts') },
    banner: {
      js: "import { createRequire as salt } from 'node:module'; const require = salt(import.meta.url); const __dirname = '/';",
    },
    logLevel: 'error',
  })
  return outfile
}

function answers(name, main, cases) {
  const out = join(folder, `${name}.txt`)
  const child = spawn(
    process.execPath,
    ['--max-old-space-size=4096', join(root, 'scripts/compare/answers.mjs'), main, cases, out],
    { stdio: 'inherit' },
  )
  return new Promise((resolve, reject) => {
    child.once('exit', (status) =>
      status === 0
        ? resolve(out)
        : reject(new Error(`the answers of ${name} ended with ${status}`)),
    )
  })
}

/** Where two texts first differ, with what stands around. */
function difference(a, b) {
  let at = 0
  while (at < a.length && a[at] === b[at]) at++
  const around = (text) => text.slice(Math.max(0, at - 120), at + 120)
  return `    before: …${around(a)}…\n    after:  …${around(b)}…`
}

async function compare(before, after) {
  const others = createInterface({ input: createReadStream(after) })[Symbol.asyncIterator]()
  let [same, differing] = [0, 0]
  for await (const line of createInterface({ input: createReadStream(before) })) {
    const other = (await others.next()).value ?? ''
    if (line === other) {
      same++
      continue
    }
    differing++
    if (differing <= 20)
      process.stdout.write(`  ${line.slice(0, line.indexOf('\t'))}\n${difference(line, other)}\n`)
  }
  process.stdout.write(`${same} answers are the same as at ${revision}, ${differing} differ\n`)
  return differing
}

const worktree = join(folder, 'before')
try {
  git('worktree', 'add', '--detach', worktree, revision)
  const made = await import(
    pathToFileURL(await bundle('scripts/compare/cases.ts', root, 'cases')).href
  )
  const cases = join(folder, 'cases.txt')
  writeFileSync(
    cases,
    [...made.cases(root, Number(values.estates))].map((one) => JSON.stringify(one)).join('\n'),
  )
  const mains = [
    await bundle('cli/main.ts', worktree, 'cli-before'),
    await bundle('cli/main.ts', root, 'cli-after'),
  ]
  const [before, after] = await Promise.all([
    answers('before', mains[0], cases),
    answers('after', mains[1], cases),
  ])
  process.exitCode = (await compare(before, after)) === 0 ? 0 : 1
} finally {
  git('worktree', 'remove', '--force', worktree)
  rmSync(folder, { recursive: true, force: true })
}
