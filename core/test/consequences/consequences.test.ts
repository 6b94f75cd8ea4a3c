import {
  apply,
  budgetOf,
  compile,
  consequencesOf,
  findAll,
  hopMemo,
  rowText,
  stateOf,
  type AnalysedState,
  type ChangeConsequences,
  type Estate,
  type Model,
  type Operation,
} from '../../src/index'
import { estateOfJson } from '../random/read'

/** A spoke that leaves by a NAT, a host that is seen from the internet, and a firewall between. */
const estate: Estate = estateOfJson({
  regions: { north: { zones: ['z1'] } },
  networks: {
    n: { ranges: ['10.1.0.0/16'], region: 'north', defaultRouteTable: 'private' },
  },
  subnets: {
    door: { network: 'n', ranges: ['10.1.1.0/24'], zone: 'z1', routeTable: 'open' },
    app: { network: 'n', ranges: ['10.1.2.0/24'], zone: 'z1' },
    wall: { network: 'n', ranges: ['10.1.3.0/24'], zone: 'z1', routeTable: 'open' },
  },
  interfaces: {
    web: {
      subnet: 'door',
      addresses: ['10.1.1.10'],
      publicAddress: '203.0.113.10',
      ruleSets: ['web'],
    },
    seat: { subnet: 'app', addresses: ['10.1.2.10'], ruleSets: ['app'] },
    desk: { subnet: 'app', addresses: ['10.1.2.11'], ruleSets: ['app'] },
  },
  ruleSets: {
    web: {
      rules: [
        { direction: 'in', protocol: 'tcp', ports: [443], peers: ['internet'] },
        { direction: 'out' },
      ],
    },
    app: { rules: [{ direction: 'out', protocol: 'tcp', ports: [443] }] },
  },
  gateways: { way: { kind: 'internet', network: 'n' } },
  nats: {
    nat: {
      network: 'n',
      kind: 'public',
      placement: { subnet: 'door' },
      addresses: ['203.0.113.20'],
    },
  },
  firewalls: {
    gate: {
      style: 'inline',
      network: 'n',
      endpoints: { one: { subnet: 'wall' } },
      otherwise: 'allow',
    },
  },
  publicAddresses: { '203.0.113.10': {}, '203.0.113.20': {} },
  parties: { broker: { ranges: ['198.51.100.80/32'], allowlist: ['203.0.113.20/32'] } },
  routeTables: {
    open: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { gateway: 'way' } }] },
    private: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { nat: 'nat' } }] },
    walled: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { inspect: 'gate/one' } }] },
  },
  prices: { currency: 'EUR', natHour: 0.05 },
  expectations: {
    home: { from: 'subnets/app', to: 'internet', must: 'never-reach' },
    seen: {
      from: 'subnets/app',
      to: { party: 'broker' },
      must: 'reach',
      protocol: 'tcp',
      ports: [443],
    },
  },
})

const analysed = (model: Model): AnalysedState => {
  const memo = hopMemo()
  return stateOf(model, findAll(model, memo)!, memo)
}

/** What some operations bring about, with its rows as people read them. */
function after(...operations: Operation[]): ChangeConsequences & { said: string[] } {
  const before = compile(estate)
  const made = apply(estate, operations)
  if (!made.ok) throw new Error(made.failure.message)
  const now = compile(made.estate, before)
  const found = consequencesOf(analysed(before), analysed(now))
  const said = found.rows.map((row) => `${row.kind}: ${rowText({ before, after: now }, row)}`)
  return { ...found, said }
}

test('a NAT that is down cuts all that left by it, and parties see nothing', () => {
  const found = after({ op: 'add', path: '/nats/nat/state', value: 'down' })
  expect(found.said).toEqual(['cut: seat and desk to web and the internet, tcp 443'])
  expect(found.expectations).toEqual([
    { id: 'home', before: 'broken', after: 'holds' },
    { id: 'seen', before: 'holds', after: 'broken' },
  ])
  expect(found.seenAs).toEqual([
    { party: 'broker', subnet: 'subnets/app', before: ['203.0.113.20'], after: [], allowed: true },
  ])
  expect(found.findings.came.map(({ code }) => code)).toContain('hole-dead-target')
  expect(
    found.ways.map(({ subnet, hosts, after: now }) => [subnet, hosts, now?.cause?.code]),
  ).toEqual(expect.arrayContaining([['subnets/app', ['seat', 'desk'], 'target-not-up']]))
  expect(found).toMatchObject({ complete: true, leftOut: [], money: null })
})

test('a row in JSON is a product with its ends, one packet, and no ports where there are none', () => {
  const { opened } = after({
    op: 'replace',
    path: '/ruleSets/web/rules/0',
    value: { direction: 'in', peers: ['internet'] },
  })
  const row = opened.find(({ from, protocol }) => from.includes('internet') && protocol === 'tcp')
  expect(opened.map(({ protocol }) => protocol)).toEqual(
    expect.arrayContaining(['tcp', 'udp', 'icmp', 47]),
  )
  expect(row).toMatchObject({
    from: ['interface:web', 'internet', 'party:broker'],
    to: ['interface:web'],
    dst: ['203.0.113.10/32'],
    protocol: 'tcp',
    ports: ['0-442', '444-65535'],
    sourcePorts: ['0-65535'],
    packet: { dst: '203.0.113.10', protocol: 'tcp' },
  })
  const icmp = opened.find(({ protocol }) => protocol === 'icmp')!
  expect(icmp).not.toHaveProperty('ports')
  expect(icmp.packet).toMatchObject({ srcPort: null, dstPort: null })
})

test('a firewall on the way out alone is met and loses; both ways it is inspected', () => {
  const { said } = after(
    { op: 'add', path: '/subnets/door/routeTable', value: 'walled' },
    { op: 'add', path: '/gateways/way/routeTable', value: 'inward' },
    {
      op: 'add',
      path: '/routeTables/inward',
      value: { network: 'n', routes: [{ to: '10.1.1.0/24', via: { inspect: 'gate/one' } }] },
    },
  )
  expect(said.filter((text) => text.startsWith('inspected'))).toEqual([
    'inspected: 3 hosts of door, app and the internet to web, tcp 443 (now by gate)',
    'inspected: web to the internet, everything (now by gate)',
  ])
})

test('a host that goes is an end of nothing; one whose public address goes is reached no more', () => {
  expect(after({ op: 'remove', path: '/interfaces/desk' }).said).toEqual([
    'cut: desk to web and the internet, tcp 443',
  ])
  expect(after({ op: 'remove', path: '/interfaces/web/publicAddress' }).said).toContain(
    'cut: 3 hosts of door, app and the internet to web, tcp 443',
  )
})

test('money is told from the estate’s own prices', () => {
  const nat = { network: 'n', kind: 'public', placement: { subnet: 'door' } }
  const { money } = after({ op: 'add', path: '/nats/second', value: nat })
  expect(money).toEqual({ currency: 'EUR', before: 0.05, after: 0.1 })
})

test('nothing differs where nothing is changed, or only a title', () => {
  const { objects, ...rest } = after({ op: 'add', path: '/nats/nat/title', value: 'The way out' })
  expect(objects).toEqual([{ object: 'nats/nat', kind: 'changed', keys: ['title'] }])
  expect(rest).toMatchObject({ rows: [], ways: [], complete: true })
})

test('what a budget leaves out is told', () => {
  const before = compile(estate)
  const made = apply(estate, [{ op: 'add', path: '/nats/nat/state', value: 'down' }])
  const now = compile(made.ok ? made.estate : estate, before)
  const found = consequencesOf(analysed(before), analysed(now), budgetOf(1))
  expect(found.complete).toBe(false)
  expect(found.leftOut[0]).toMatch(/^packets from interface:/)
})
