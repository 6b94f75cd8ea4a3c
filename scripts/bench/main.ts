import { readdirSync, readFileSync } from 'node:fs'
import { cpus, totalmem } from 'node:os'
import {
  allPackets,
  compile,
  eachFlow,
  exitsOf,
  findAll,
  hopMemo,
  hopsOf,
  longestLength,
  prefixTable,
  proveExpectation,
  readEstate,
  trace,
  writeJson,
  type End,
  type Estate,
  type Model,
  type Question,
} from '@salt-trail/core'
import type { Address } from '../../core/src/address/address'
import { AddressMap } from '../../core/src/address/address-map'
import { generateEstate } from '../generator/estate'
import { random } from '../../core/test/random/random'
import { SIZES, type SizeName } from '../generator/plan'
import { benchChanges } from './changes'
import { benchConsequences } from './consequences'
import { benchExposure } from './exposure'
import { benchRepresentations } from './representations'

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
    return {
      prefix: { address: (random() & (0xffffffff << (32 - length))) >>> 0, length },
      value: 1,
    }
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

/** Hosts that all networks number alike, as most do: a plain map has them in one chain. */
function benchAddressMap(): void {
  const hosts = Array.from(
    { length: 20_000 },
    (_, network) => (0x20010db8n << 96n) | (BigInt(network) << 64n) | 10n,
  )
  const fill = (map: Map<Address, number>) =>
    timed(1, () => hosts.forEach((host, at) => map.set(host, at)))
  row(
    '20,000 IPv6 hosts with the same low half put into a map of addresses',
    `${fill(new AddressMap()).toFixed(0)} ms, into a plain map ${fill(new Map()).toFixed(0)} ms`,
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
  const question = {
    from: 'interface:seat-plan-1',
    to: 'party:fuel-broker',
    protocol: 'tcp',
    port: 443,
  }
  for (let i = 0; i < 2000; i++) trace(model, question)
  row(
    'one trace there and back with evidence, demo',
    `${timed(5000, () => trace(model, question)).toFixed(3)} ms median`,
  )
  row(
    'the same without evidence',
    `${timed(5000, () => trace(model, question, { evidence: false })).toFixed(3)} ms median`,
  )
}

/** An estate of the generator, read as strict JSON and compiled. */
function benchSize(name: SizeName): Model {
  const text = JSON.stringify(generateEstate(SIZES[name], 1).estate)
  const files = [{ name: `${name}.json`, text }]
  let estate: Estate | null = null
  const reading = timed(1, () => (estate = readEstate(files).estate))
  row(
    `${name}: reading and checking ${(text.length / 2 ** 20).toFixed(1)} MiB of strict JSON`,
    `${(reading / 1000).toFixed(1)} s`,
  )
  let model: Model | null = null
  row(
    `${name}: compiling`,
    `${timed(1, () => (model = compile(estate!))).toFixed(0)} ms, ${memory()}`,
  )
  benchModelChanges(name, estate!, model!)
  return model!
}

const memory = (): string => `${(process.memoryUsage().rss / 2 ** 30).toFixed(2)} GiB resident`

/** One changed route, rule or association: the model made from the one before. */
function benchModelChanges(name: SizeName, estate: Estate, model: Model): void {
  const tables = [...estate.routeTables]
  const subnets = [...estate.subnets]
  const sets = [...estate.ruleSets]
  let i = 0
  const change: Record<string, () => Estate> = {
    route: () => {
      const [id, table] = tables[(i += 97) % tables.length]!
      return {
        ...estate,
        routeTables: new Map(estate.routeTables).set(id, {
          ...table,
          routes: table.routes!.slice(1),
        }),
      }
    },
    rule: () => {
      const [id, set] = sets[(i += 97) % sets.length]!
      return {
        ...estate,
        ruleSets: new Map(estate.ruleSets).set(id, { ...set, rules: set.rules!.slice(1) }),
      }
    },
    association: () => {
      const [id, subnet] = subnets[(i += 97) % subnets.length]!
      return {
        ...estate,
        subnets: new Map(estate.subnets).set(id, { ...subnet, routeTable: `${subnet.network}-t0` }),
      }
    },
  }
  const times = Object.entries(change).map(
    ([what, make]) => `${what} ${timed(9, () => compile(make(), model)).toFixed(1)} ms`,
  )
  row(`${name}: the model after one changed …`, times.join(', '))
}

/** Random questions between hosts and to all kinds of places. */
function questionsFor(model: Model, count: number): Question[] {
  const r = random(42)
  const hosts = [...model.index.interfaces.keys()]
  const places = [
    'internet',
    'party:broker-3',
    ...[...model.index.sites.keys()].map((id) => `site:${id}`),
    ...[...model.index.services.keys()].map((id) => `service:${id}`),
  ]
  return Array.from({ length: count }, () => ({
    from: `interface:${r.pick(hosts)}`,
    to: r.chance(50) ? `interface:${r.pick(hosts)}` : r.pick(places),
    protocol: 'tcp',
    port: 443,
  }))
}

function benchRandomTraces(name: SizeName, model: Model): void {
  const questions = questionsFor(model, 6000)
  for (const question of questions.slice(0, 2000)) trace(model, question)
  const times = questions.slice(2000).map((question) => {
    const start = performance.now()
    trace(model, question)
    return performance.now() - start
  })
  times.sort((a, b) => a - b)
  const at = (share: number): string => times[Math.floor(times.length * share)]!.toFixed(3)
  row(
    `${name}: one trace there and back with evidence, ${times.length} random questions`,
    `${at(0.5)} ms median, ${at(0.95)} ms at 95 %`,
  )
}

/** The ways out of every subnet, and what all packets between two hosts cost. */
function benchWays(name: SizeName, model: Model): void {
  const subnets = model.subnets.filter((subnet) => model.index.subnets.has(subnet.id))
  let ranges = 0
  const time = timed(1, () => {
    const memo = hopMemo()
    for (const subnet of subnets)
      for (const table of hopsOf(model, subnet, memo)) ranges += table[4].length + table[6].length
  })
  row(
    `${name}: effective next hops of all ${subnets.length} subnets, up to transits`,
    `${(time / 1000).toFixed(2)} s, ${ranges} ranges, ${memory()}`,
  )
  const r = random(43)
  const hosts = model.interfaces.filter(
    (one) => one.subnet >= 0 && typeof one.addresses[0] === 'number',
  )
  const walks: number[] = []
  const times = Array.from({ length: 300 }, () => {
    const [from, to] = [r.pick(hosts), r.pick(hosts)]
    const end: End = {
      in: 'subnet',
      place: { subnet: from.subnet, interface: from.index },
      ref: from.ref,
    }
    const one = (address: number): { from: number; to: number } => ({ from: address, to: address })
    let count = 0
    const start = performance.now()
    eachFlow(
      model,
      end,
      [
        {
          ...allPackets(4),
          src: one(from.addresses[0] as number),
          dst: one(to.addresses[0] as number),
        },
      ],
      true,
      () => void count++,
    )
    walks.push(count)
    return performance.now() - start
  })
  row(
    `${name}: every packet between two hosts, there and back, 300 random pairs`,
    `${median(times).toFixed(2)} ms median, ${median(walks)} boxes median, ${Math.max(...walks)} at most`,
  )
  const expectation = {
    from: `subnets/${subnets[0]!.id}`,
    to: 'internet',
    must: 'never-reach',
  } as const
  row(
    `${name}: an expectation that a subnet never reaches the internet`,
    `${timed(3, () => proveExpectation(model, 'it', expectation)).toFixed(0)} ms`,
  )
}

/**
 * What a worker of the server does: the matrix, then all findings from what was found for it; and
 * what growth costs.
 */
function benchAnalysis(name: SizeName, model: Model): void {
  const subnets = model.subnets.filter((subnet) => model.index.subnets.has(subnet.id))
  const matrix = timed(1, () => {
    const memo = hopMemo()
    for (const subnet of subnets) exitsOf(model, subnet, memo)
  })
  row(
    `${name}: the Exits matrix, five columns of ${subnets.length} rows`,
    `${(matrix / 1000).toFixed(1)} s, ${memory()}`,
  )
  let found = 0
  const findings = timed(1, () => (found = findAll(model)!.findings.length))
  row(
    `${name}: all findings, ways out computed with them`,
    `${(findings / 1000).toFixed(1)} s, ${found} findings, ${memory()}`,
  )
  const before = analyses.at(-1)
  if (before) {
    const growth = (matrix + findings) / before.time
    row(
      `growth of matrix and findings from ${before.name} to ${name}`,
      `${growth.toFixed(1)} × for ${(subnets.length / before.subnets).toFixed(1)} × the subnets`,
    )
  }
  analyses.push({ name, subnets: subnets.length, time: matrix + findings })
}
const analyses: { readonly name: SizeName; readonly subnets: number; readonly time: number }[] = []

const words = process.argv.slice(2)
const named = words
  .filter((word) => !word.startsWith('--'))
  .map((word) => word.toUpperCase() as SizeName)
const sizes: readonly SizeName[] = named.length > 0 ? named : ['S', 'M', 'L']
if (words.includes('--consequences')) {
  for (const name of sizes) {
    const { estate } = readEstate([
      { name: `${name}.json`, text: JSON.stringify(generateEstate(SIZES[name], 1).estate) },
    ])
    benchConsequences(name, estate!, name === 'L' ? 3 : 5, row)
    row(`${name}: memory with the base known`, memory())
  }
} else if (words.includes('--changes')) {
  // In a process of its own: what was measured before would be in memory beside it.
  for (const name of sizes) {
    const { estate } = readEstate([
      { name: `${name}.json`, text: JSON.stringify(generateEstate(SIZES[name], 1).estate) },
    ])
    benchChanges(name, estate!, name === 'L' ? 9 : 15, row)
    row(`${name}: memory of the standing analysis`, memory())
  }
} else {
  console.log(
    `Node ${process.version}, ${cpus().length} cores, ${Math.round(totalmem() / 2 ** 30)} GiB\n\n| what | measured |\n|---|---|`,
  )
  benchLookUp()
  benchAddressMap()
  benchTraces(demoModel())
  for (const name of sizes) {
    const model = benchSize(name)
    benchRandomTraces(name, model)
    benchWays(name, model)
    benchExposure(name, model, row)
    benchAnalysis(name, model)
    benchRepresentations(name, model, row)
  }
}
