import { readdirSync, readFileSync } from 'node:fs'
import { cpus, totalmem } from 'node:os'
import { compile, longestLength, prefixTable, readEstate, trace, writeJson, type Model } from '@salt-trail/core'

/** Prints what was measured, with the reference measured in the same run. */
const row = (what: string, value: string): void => console.log(`| ${what} | ${value} |`)

function median(times: number[]): number {
  return [...times].sort((a, b) => a - b)[times.length >> 1]!
}

/** The median of some runs, in milliseconds. */
function timed(runs: number, work: () => void): number {
  const times: number[] = []
  for (let i = 0; i < runs; i++) {
    const start = performance.now()
    work()
    times.push(performance.now() - start)
  }
  return median(times)
}

/** A small deterministic sequence (xorshift), so that every run measures the same. */
function sequence(seed: number): () => number {
  let state = seed
  return () => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    return state >>> 0
  }
}

function benchLookUp(): void {
  const count = 150_000
  const random = sequence(7)
  const entries = Array.from({ length: count }, () => {
    const length = 12 + (random() % 17)
    return { prefix: { address: (random() & (0xffffffff << (32 - length))) >>> 0, length }, value: 1 }
  })
  const table = prefixTable(entries)
  const asked = Uint32Array.from({ length: 1_000_000 }, random)
  let sum = 0
  const lookUps = timed(5, () => {
    for (const address of asked) sum += longestLength(table, address)
  })
  const array = Float64Array.from({ length: count * 2 }, random)
  const reads = timed(5, () => {
    for (const address of asked) sum += array[address % array.length]!
  })
  row(
    'longest-prefix look-up among 150,000 prefixes',
    `${((lookUps / asked.length) * 1e6).toFixed(0)} ns, ${(lookUps / reads).toFixed(1)} × a random read of a typed array (${sum > 0 ? 'checked' : ''})`,
  )
}

function demoModel(): Model {
  const files = readdirSync('demo')
    .filter((name) => name.endsWith('.yaml'))
    .sort()
    .map((name) => ({ name, text: readFileSync(`demo/${name}`, 'utf8') }))
  row(
    'reading and checking the demo',
    `${timed(20, () => readEstate(files)).toFixed(1)} ms for ${(files.reduce((sum, f) => sum + f.text.length, 0) / 1000).toFixed(0)} kB`,
  )
  const estate = readEstate(files).estate!
  const json = [{ name: 'demo.json', text: writeJson(estate) }]
  row('the same as strict JSON', `${timed(20, () => readEstate(json)).toFixed(1)} ms`)
  return compile(estate)
}

function benchTraces(model: Model): void {
  const question = { from: 'interface:seat-plan-1', to: 'party:fuel-broker', protocol: 'tcp', port: 443 }
  for (let i = 0; i < 2000; i++) trace(model, question)
  row('one trace there and back with evidence, demo', `${timed(5000, () => trace(model, question)).toFixed(3)} ms median`)
  row('the same without evidence', `${timed(5000, () => trace(model, question, { evidence: false })).toFixed(3)} ms median`)
}

console.log(`Node ${process.version}, ${cpus().length} cores, ${Math.round(totalmem() / 2 ** 30)} GiB\n\n| what | measured |\n|---|---|`)
benchLookUp()
benchTraces(demoModel())
