import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import {
  familyOfCode,
  isRefusal,
  proposalsFor,
  proposalsForQuestion,
  proverOf,
  readEstate,
  trace,
  type Estate,
  type Finding,
  type Prover,
} from '../../src/index'
import { parse } from 'yaml'
import { modelOf } from '../trace/fixtures'
import { randomEstate } from '../random/estate'
import { estateOfJson } from '../random/read'
import { brokenPromises, hasTarget, noCounts, type Counts } from './promises'
import { runs } from '../random/runs'

const root = join(__dirname, '../../..')
const files = (folder: string): { name: string; text: string }[] =>
  readdirSync(join(root, folder))
    .filter((name) => name.endsWith('.yaml'))
    .map((name) => ({ name, text: readFileSync(join(root, folder, name), 'utf8') }))

/** Few findings are looked at in each random estate, since each is tried many times. */
const RANDOM_ESTATES = runs(1)
const EACH = Number(process.env.SALT_TRAIL_RANDOM_FINDINGS ?? 4)

const counts = new Map<string, Counts>()

/** Asks for the best proposal of some findings, and holds it to what is promised. */
function hold(where: string, prover: Prover, findings: readonly Finding[]): void {
  for (const finding of findings) {
    const [first] = proposalsFor(prover, finding, { trials: 12, proposals: 1 })
    const own = counts.get(finding.code) ?? noCounts()
    counts.set(finding.code, own)
    own[first === undefined ? 'none' : first.harmless ? 'harmless' : 'harmful']++
    if (hasTarget(prover.model, finding)) {
      own.reachable++
      if (first?.harmless) own.reached++
    }
    if (first === undefined) continue
    const told = { where, code: finding.code, anchor: finding.anchor, what: first.what }
    expect({ ...told, broken: brokenPromises(prover, finding, first) }).toEqual({
      ...told,
      broken: [],
    })
  }
}

const isFault = ({ code }: Finding): boolean => familyOfCode(code) !== 'weak'

test('every proposal of the demo keeps what it promises', () => {
  const prover = proverOf(readEstate(files('demo')).estate!)
  const faults = prover.findings.filter(isFault)
  // One of a code shows what is proposed for it; trying each against all packets takes seconds.
  const isShown = ({ code }: Finding, at: number): boolean =>
    !faults.slice(0, at).some((other) => other.code === code)
  hold('demo', prover, process.env.SALT_TRAIL_RANDOM_ESTATES ? faults : faults.filter(isShown))
})

test.each(files('examples').map((file) => [file.name, file] as const))(
  'every proposal of the example %s keeps what it promises',
  (name, file) => {
    const prover = proverOf(readEstate([file]).estate!)
    hold(name, prover, prover.findings.filter(isFault))
  },
)

interface Fixture {
  readonly estate: Record<string, unknown>
  readonly cases: readonly { readonly edit?: unknown; readonly has?: readonly string[] }[]
}

test.each(files('core/test/findings/fixtures').map((file) => [file.name, file] as const))(
  'every proposal for the findings that the fixtures %s are made for keeps what it promises',
  (name, { text }) => {
    const { estate, cases } = parse(text) as Fixture
    const held = new Set<string>()
    for (const { edit, has = [] } of cases) {
      // One case shows what is proposed for a code; trying each against all packets takes seconds.
      const codes = has.map((one) => one.split(' at ')[0]!)
      if (codes.every((code) => held.has(code))) continue
      for (const code of codes) held.add(code)
      const prover = proverOf(modelOf(estate, edit).estate)
      const meant = prover.findings.filter(({ code, anchor }) =>
        has.includes(`${code} at ${anchor}`),
      )
      hold(name, prover, meant.filter(isFault))
    }
  },
  300_000,
)

test(
  'proposals of random estates keep what they promise',
  () => {
    for (let seed = 1; seed <= RANDOM_ESTATES; seed++) {
      const prover = proverOf(estateOfJson(randomEstate(seed).estate))
      const faults = prover.findings.filter(isFault)
      const step = Math.max(1, Math.floor(faults.length / EACH))
      hold(
        `random ${seed}`,
        prover,
        faults.filter((_, at) => at % step === 0),
      )
    }
  },
  RANDOM_ESTATES * 300_000,
)

test('a leak is gone by its proposal, though its packet worked all along', () => {
  const prover = proverOf(estateOfJson(randomEstate(56).estate))
  const leak = prover.findings.find(
    ({ code, anchor }) => code === 'leak-service-by-internet' && anchor === 'subnets/a-s0',
  )!
  for (const { findings } of proposalsFor(prover, leak))
    expect(findings.went.map(({ fingerprint }) => fingerprint)).toContain(leak.fingerprint)
})

afterAll(() => {
  const all = noCounts()
  for (const { harmless, harmful, none, reachable, reached } of counts.values()) {
    all.reachable += reachable
    all.reached += reached
    all.harmless += harmless
    all.harmful += harmful
    all.none += none
  }
  const total = all.harmless + all.harmful + all.none
  process.stderr.write(
    `proposals: ${all.harmless} of ${total} findings have a harmless one, ${all.harmful} one with harm, ${all.none} none; ${all.reached} of the ${all.reachable} with a possible target\n`,
  )
})

/** Spokes that are steered through a hub's wall; the last lacks the route that the others have. */
function spokes(count: number): Estate {
  const each = <T>(make: (n: number) => [string, T]): Record<string, T> =>
    Object.fromEntries(Array.from({ length: count }, (_, at) => make(at + 1)))
  return estateOfJson({
    regions: { north: { zones: ['z1'] } },
    networks: {
      hub: { ranges: ['10.0.0.0/16'], behaviour: 'default-open', region: 'north' },
      ...each((n) => [
        `spoke-${n}`,
        { ranges: [`10.${n}.0.0/16`], behaviour: 'default-open', region: 'north' },
      ]),
    },
    subnets: {
      wall: { network: 'hub', ranges: ['10.0.0.0/24'], zone: 'z1' },
      ...each((n) => [
        `app-${n}`,
        {
          network: `spoke-${n}`,
          ranges: [`10.${n}.1.0/24`],
          zone: 'z1',
          routeTable: `steered-${n}`,
        },
      ]),
    },
    interfaces: {
      'wall-inside': { subnet: 'wall', addresses: ['10.0.0.4'], forwards: true },
      ...each((n) => [`host-${n}`, { subnet: `app-${n}`, addresses: [`10.${n}.1.10`] }]),
    },
    firewalls: {
      gate: {
        style: 'routed',
        network: 'hub',
        interfaces: { inside: 'wall-inside' },
        otherwise: 'allow',
      },
    },
    peerings: each((n) => [
      `hub-${n}`,
      {
        a: { network: 'hub', acceptsForwarded: true },
        b: { network: `spoke-${n}`, acceptsForwarded: true },
      },
    ]),
    routeTables: each((n) => [
      `steered-${n}`,
      {
        network: `spoke-${n}`,
        routes: n === count ? [] : [{ to: '10.0.0.0/8', via: { address: '10.0.0.4' } }],
      },
    ]),
  })
}

test('what neighbours do comes first: the one route that most others have', () => {
  const prover = proverOf(spokes(6))
  const question = { from: 'interface:host-6', to: 'interface:host-1', protocol: 'tcp', port: 443 }
  const [first] = proposalsForQuestion(prover, question)
  expect(first).toMatchObject({
    harmless: true,
    what: 'route 10.0.0.0/8 by address 10.0.0.4, as most neighbours of spoke-6 do',
    changes: [
      {
        op: 'add',
        path: '/routeTables/steered-6/routes/-',
        value: { to: '10.0.0.0/8', via: { address: '10.0.0.4' } },
      },
    ],
  })
  const answer = trace(first!.after, question)
  expect(isRefusal(answer) ? answer : [answer.verdict, answer.way]).toEqual([
    'works',
    ['peerings/hub-6', 'firewalls/gate', 'peerings/hub-1'],
  ])
})

test('a public address comes from the reserve, or is left to be chosen', () => {
  const estate = (publicAddresses: object): Estate =>
    estateOfJson({
      networks: { n: { ranges: ['10.1.0.0/16'] } },
      subnets: { s: { network: 'n', ranges: ['10.1.1.0/24'], routeTable: 't', role: 'public' } },
      interfaces: { web: { subnet: 's', addresses: ['10.1.1.10'], ruleSets: ['out'] } },
      ruleSets: { out: { rules: [{ direction: 'out' }] } },
      gateways: { door: { kind: 'internet', network: 'n' } },
      routeTables: { t: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] } },
      publicAddresses,
    })
  const question = { from: 'interface:web', to: 'internet', protocol: 'tcp', port: 443 }
  const [kept] = proposalsForQuestion(
    proverOf(estate({ '203.0.113.7': { reserved: true } })),
    question,
  )
  expect(kept).toMatchObject({ what: 'give web the reserved public address 203.0.113.7' })
  expect(kept!.blanks ?? []).toEqual([])
  const [open] = proposalsForQuestion(proverOf(estate({})), question)
  expect(open).toMatchObject({
    what: 'give web a public address of your choice',
    harmless: true,
    blanks: [{ path: '/interfaces/web/publicAddress', wants: 'a public IPv4 address' }],
  })
})
