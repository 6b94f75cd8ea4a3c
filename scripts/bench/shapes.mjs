import { spawnSync } from 'node:child_process'
import { closeSync, mkdtempSync, openSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { root } from '../machine/run.mjs'

const NAMES = [
  'star',
  'mesh',
  'transit',
  'rule-heavy',
  'priority',
  'chains',
  'two-families',
  'published',
]
/** A check that takes longer is stopped, and said to take more than this. */
const MOST_SECONDS = 600

const row = (...cells) => console.log(`| ${cells.join(' | ')} |`)

/**
 * Prints the CPU time and memory of `check --format json` on each shape of estate, at a size and at
 * twice the size, beside the generator's M in the same run; `words` are the names of some shapes
 * and, if not 1,000, the size in subnets.
 */
export function benchShapes(script, flags, words) {
  const size = Number(words.find((word) => /^\d+$/.test(word)) ?? 1000)
  const named = words.filter((word) => NAMES.includes(word))
  const folder = mkdtempSync(join(tmpdir(), 'salt-trail-shapes-'))
  try {
    const measured = (name, subnets) => measure(script, flags, join(folder, 'made'), name, subnets)
    const base = measured('M', 1000)
    row(
      'estate',
      'CPU',
      'against M',
      'memory',
      'twice the size: time, memory',
      'findings',
      'entries',
    )
    row('---', '---', '---', '---', '---', '---', '---')
    row('M', secondsOf(base), '1 ×', gigabytesOf(base), '', base.findings, base.entries)
    for (const name of named.length > 0 ? named : NAMES) {
      const once = measured(name, size)
      const twice = once.seconds === null ? once : measured(name, size * 2)
      row(
        `${name}, ${size} subnets`,
        secondsOf(once),
        timesOf(once.seconds, base.seconds),
        gigabytesOf(once),
        `${timesOf(twice.seconds, once.seconds)}, ${timesOf(twice.bytes, once.bytes)}`,
        once.findings,
        once.entries,
      )
    }
  } finally {
    rmSync(folder, { recursive: true })
  }
}

function measure(script, flags, path, name, subnets) {
  const [file, told] = [`${path}.json`, `${path}-told.json`]
  const made = spawnSync(process.execPath, [script, 'make', name, String(subnets), file], {
    stdio: 'inherit',
    cwd: root,
  })
  if (made.status !== 0) throw new Error(`${name} could not be made`)
  const output = openSync(told, 'w')
  const { status, stderr } = spawnSync(process.execPath, [...flags, script, 'check', file], {
    stdio: ['ignore', output, 'pipe'],
    cwd: root,
    timeout: MOST_SECONDS * 1000,
  })
  closeSync(output)
  if (status !== 0) return { seconds: null, bytes: null, findings: '', entries: '' }
  const { rootCauses, findings } = JSON.parse(readFileSync(told, 'utf8'))
  const last = stderr.toString().trimEnd().split('\n').at(-1)
  return { ...JSON.parse(last), findings: findings.length, entries: rootCauses.length }
}

const secondsOf = ({ seconds }) =>
  seconds === null ? `over ${MOST_SECONDS} s` : `${seconds.toFixed(1)} s`
const gigabytesOf = ({ bytes }) => (bytes === null ? '' : `${(bytes / 2 ** 30).toFixed(2)} GiB`)
const timesOf = (a, b) => (a === null || b === null ? '–' : `${(a / b).toFixed(2)} ×`)
