import {
  apply,
  complete,
  isRefusal,
  isValid,
  planOf,
  trace,
  compile,
  type Estate,
  type Plan,
} from '../../src/index'
import { canonical } from '../../src/compare/compare'
import { estateOfJson } from '../random/read'

const estate = (over: object = {}): object => ({
  networks: { n: { ranges: ['10.1.0.0/16'] } },
  subnets: {
    door: { network: 'n', ranges: ['10.1.1.0/24'], routeTable: 'open' },
    app: { network: 'n', ranges: ['10.1.2.0/24'], routeTable: 'old' },
  },
  interfaces: { seat: { subnet: 'app', addresses: ['10.1.2.10'] } },
  gateways: { way: { kind: 'internet', network: 'n' } },
  publicAddresses: { '203.0.113.20': {} },
  nats: {
    first: { network: 'n', placement: { subnet: 'door' }, addresses: ['203.0.113.20'] },
  },
  routeTables: {
    open: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { gateway: 'way' } }] },
    old: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { nat: 'first' } }] },
  },
  ...over,
})

/** The same with another translator, by a table of its own; what was there before is gone. */
const replaced = (): Estate =>
  estateOfJson(
    estate({
      subnets: {
        door: { network: 'n', ranges: ['10.1.1.0/24'], routeTable: 'open' },
        app: { network: 'n', ranges: ['10.1.2.0/24'], routeTable: 'new' },
      },
      publicAddresses: { '203.0.113.21': {} },
      nats: {
        second: { network: 'n', placement: { subnet: 'door' }, addresses: ['203.0.113.21'] },
      },
      routeTables: {
        open: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { gateway: 'way' } }] },
        new: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { nat: 'second' } }] },
      },
    }),
  )

/** Goes through the steps one by one; gives the estate after each. */
function statesOf(first: Estate, { steps }: Plan): Estate[] {
  let now = first
  return steps.map(({ changes }) => {
    const made = apply(now, changes)
    if (!made.ok) throw new Error(made.failure.message)
    now = made.estate
    return now
  })
}

const works = (one: Estate): boolean => {
  const question = { from: 'interface:seat', to: 'internet', protocol: 'tcp', port: 443 }
  const answer = trace(compile(one), question)
  return !isRefusal(answer) && answer.verdict === 'works'
}

test('a translator is replaced without a gap: the new one first, the old one last', () => {
  const [before, after] = [estateOfJson(estate()), replaced()]
  const plan = planOf(before, after)
  expect(plan.steps.map(({ what }) => what)).toEqual([
    'add publicAddresses/203.0.113.21',
    'add routeTables/new',
    'add nats/second',
    'change routeTable of subnets/app',
    'remove nats/first',
    'remove routeTables/old',
    'remove publicAddresses/203.0.113.20',
  ])
  expect(plan).toMatchObject({ gapless: true, complete: true })
  const states = statesOf(before, plan)
  expect(states.map((one) => [isValid(one, before), works(one)])).toEqual(
    states.map(() => [true, true]),
  )
  const last = states.at(-1)!
  for (const section of ['subnets', 'nats', 'routeTables', 'publicAddresses'] as const)
    expect(canonical(Object.fromEntries(last[section]))).toBe(
      canonical(Object.fromEntries(after[section])),
    )
})

test('where one address moves from one translator to another, the gap is named', () => {
  const before = estateOfJson(estate())
  const after = estateOfJson(
    estate({
      nats: {
        second: { network: 'n', placement: { subnet: 'door' }, addresses: ['203.0.113.20'] },
      },
      routeTables: {
        open: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { gateway: 'way' } }] },
        old: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { nat: 'second' } }] },
      },
    }),
  )
  const plan = planOf(before, after)
  expect(plan.gapless).toBe(plan.steps.every(({ gap }) => gap.length === 0))
  const states = statesOf(before, plan)
  // What the plan says of a gap is what the trace says after each step.
  expect(states.map(works)).toEqual(plan.steps.map(({ gap }) => gap.length === 0))
})

test('each step tells what it opens and cuts at that moment', () => {
  const before = estateOfJson(estate({ routeTables: {}, subnets: subnetsWithoutTables() }))
  const after = estateOfJson(
    estate({
      subnets: subnetsWithoutTables(),
      networks: { n: { ranges: ['10.1.0.0/16'], defaultRouteTable: 'open' } },
      routeTables: {
        open: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { gateway: 'way' } }] },
      },
      interfaces: {
        seat: { subnet: 'app', addresses: ['10.1.2.10'], publicAddress: '203.0.113.30' },
      },
      publicAddresses: { '203.0.113.20': {}, '203.0.113.30': {} },
    }),
  )
  const { steps, gapless } = planOf(before, after)
  expect(gapless).toBe(true)
  const opening = steps.filter(({ opened }) => opened.length > 0)
  expect(opening).toHaveLength(1)
  expect(opening[0]!.opened.flatMap(({ to }) => to)).toContain('internet')
  expect(steps.every(({ cut }) => cut.length === 0)).toBe(true)
})

const subnetsWithoutTables = (): object => ({
  door: { network: 'n', ranges: ['10.1.1.0/24'] },
  app: { network: 'n', ranges: ['10.1.2.0/24'] },
})

test('nothing to do is a plan without steps', () => {
  const one = estateOfJson(estate())
  expect(planOf(one, one)).toEqual({ steps: [], gapless: true, complete: true })
  expect(complete(one, [])).toEqual([])
})
