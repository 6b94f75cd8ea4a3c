import fc from 'fast-check'
import {
  exposureOf,
  groupOf,
  isRefusal,
  openingsMeant,
  parseAddress,
  trace,
  waysInOf,
  type Model,
  type Opening,
} from '../../src/index'
import { randomEstate } from '../random/estate'
import { runs } from '../random/runs'
import { modelOf } from '../trace/fixtures'

const quay = {
  networks: { quay: { ranges: ['10.1.0.0/16'], defaultRouteTable: 'out' } },
  subnets: { desk: { network: 'quay', ranges: ['10.1.1.0/24'], boundary: 'edge' } },
  interfaces: {
    'desk-1': {
      subnet: 'desk',
      addresses: ['10.1.1.10'],
      publicAddress: '203.0.113.7',
      ruleSets: ['desk'],
    },
    'desk-2': { subnet: 'desk', addresses: ['10.1.1.11'], ruleSets: ['desk'] },
  },
  routeTables: {
    out: {
      network: 'quay',
      learn: ['line'],
      routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }],
    },
  },
  gateways: {
    door: { kind: 'internet', network: 'quay' },
    line: {
      kind: 'private',
      network: 'quay',
      site: 'harbour',
      learned: ['172.20.0.0/24'],
      announces: ['10.1.0.0/16'],
    },
  },
  sites: { harbour: { ranges: ['172.20.0.0/24'] } },
  ruleSets: {
    desk: {
      rules: [
        { direction: 'in', protocol: 'tcp', ports: [443], peers: ['any'] },
        { direction: 'in', protocol: 'tcp', ports: [5432], peers: ['198.51.100.0/24'] },
        { direction: 'in', protocol: 'tcp', ports: [22], peers: ['172.20.0.0/25'] },
        { direction: 'in', protocol: 'icmp', peers: ['any'] },
      ],
    },
    edge: {
      stateful: false,
      rules: [
        { direction: 'in', protocol: 'any', peers: ['any'] },
        { direction: 'out', protocol: 'any', peers: ['any'] },
      ],
    },
  },
}
const openings = (model: Model): Opening[] =>
  [...model.index.interfaces.values()].flatMap((index) => [...exposureOf(model, index).openings])
const said = (one: Opening): string =>
  [
    groupOf(one, 'port'),
    one.from,
    one.to.slice('interfaces/'.length),
    one.address,
    one.openTo.share,
    one.answered,
  ].join(' ')

test('who from outside reaches what on which ports, administration and databases first', () => {
  const all = openingsMeant(openings(modelOf(quay)), { sort: 'port', text: '' })
  const known = all.filter(({ kind }) => kind !== 'other')
  expect(known.map(({ kind, from, to, ports }) => [kind, from, to, ports!.from])).toEqual([
    ['administration', 'sites/harbour', 'interfaces/desk-1', 22],
    ['administration', 'sites/harbour', 'interfaces/desk-2', 22],
    ['database', 'internet', 'interfaces/desk-1', 5432],
  ])
  expect(known.map(({ openTo }) => openTo.ranges)).toEqual([
    ['172.20.0.0/25'],
    ['172.20.0.0/25'],
    ['198.51.100.0/24'],
  ])
  expect(known[0]!.openTo.share).toBe(0.5)
  expect(all.map(said)).toEqual(
    expect.arrayContaining([
      'tcp 443 internet desk-1 203.0.113.7 1 all',
      'tcp 443 sites/harbour desk-2 10.1.1.11 1 all',
      'icmp internet desk-1 203.0.113.7 1 all',
    ]),
  )
})

test('an answer that only some of the packets get is told', () => {
  const edge = { stateful: false, rules: [quay.ruleSets.edge.rules[0]!] }
  const answersTo = (ports: string[]): object => ({
    ...quay,
    ruleSets: {
      ...quay.ruleSets,
      edge: {
        ...edge,
        rules: [...edge.rules, { direction: 'out', protocol: 'tcp', ports, peers: ['any'] }],
      },
    },
  })
  const answeredAt = (estate: object): string =>
    openings(modelOf(estate as Record<string, unknown>)).find(
      ({ from, ports }) => from === 'internet' && ports?.from === 443,
    )!.answered
  expect(answeredAt(quay)).toBe('all')
  expect(answeredAt(answersTo(['32768-65535']))).toBe('some')
  expect(answeredAt(answersTo(['50000-50001']))).toBe('some')
  expect(answeredAt({ ...quay, ruleSets: { ...quay.ruleSets, edge } })).toBe('none')
})

test('openings are found by port, by name and by who they are open to', () => {
  const all = openings(modelOf(quay))
  const found = (text: string, sort: 'port' | 'subnet' | 'address' = 'port'): string[] =>
    openingsMeant(all, { sort, text }).map((one) => groupOf(one, sort))
  expect(new Set(found('22'))).toEqual(new Set(['tcp 22']))
  expect(found('harbour')).toHaveLength(
    openings(modelOf(quay)).filter((o) => o.from !== 'internet').length,
  )
  expect(found('198.51.100')).toEqual(['tcp 5432'])
  const named = openingsMeant(all, { sort: 'port', text: 'ssh', port: 22 })
  expect(new Set(named.map((one) => groupOf(one, 'port')))).toEqual(new Set(['tcp 22']))
  expect(
    openingsMeant(all, { sort: 'port', text: 'desk-2', port: 22 }).every(({ to }) =>
      to.endsWith('desk-2'),
    ),
  ).toBe(true)
  expect(found('', 'subnet').every((group) => group === 'desk')).toBe(true)
  const addresses = found('', 'address').map((text) => Number(parseAddress(text)))
  expect(addresses).toEqual([...addresses].sort((a, b) => a - b))
})

test('a host that is down, or nowhere, is not exposed', () => {
  const down = { ...quay.interfaces['desk-1'], state: 'down' }
  const model = modelOf({ ...quay, interfaces: { 'desk-1': down } })
  expect(openings(model)).toEqual([])
})

test('in random estates an opening is a trace that is delivered, and ways in say the same', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1_000_000 }), (seed) => {
      const model = modelOf(randomEstate(seed).estate)
      const all = openings(model)
      for (const one of all) {
        const { src, dst, protocol, srcPort, dstPort } = one.packet
        const from = one.from === 'internet' ? src : one.from.replace('sites/', 'site:')
        if (one.from !== 'internet') continue
        const answer = trace(
          model,
          { from, to: dst, protocol, port: dstPort, sourcePort: srcPort },
          { evidence: false },
        )
        if (isRefusal(answer)) throw new Error(answer.message)
        // Of several branches of equal cost one may come to the host.
        const branches = answer.branches.length > 0 ? answer.branches : [answer]
        const outcomes = branches.map(({ forward }) => forward.outcome)
        expect([one.to, outcomes]).toEqual([one.to, expect.arrayContaining(['delivered'])])
        expect(answer.verdict === 'works').toBe(one.answered !== 'none')
      }
      // Who comes in from outside by the ways of each subnet is exposed, and nobody else.
      const direct = new Set(
        all
          .filter(({ ways }) =>
            ways.some((way) => !way.some((ref) => ref.startsWith('frontends/'))),
          )
          .map(({ from, to }) => `${from} ${to}`),
      )
      const known = model.subnets
        .filter(({ id }) => model.index.subnets.has(id))
        .flatMap((subnet) => waysInOf(model, subnet).ways)
        .filter(({ from, to }) => {
          const index = model.index.interfaces.get(to.slice('interfaces/'.length))!
          const isHost = model.interfaces[index]!.up && !model.firewallAt.has(index)
          return !from.startsWith('networks/') && isHost
        })
        .map(({ from, to }) => `${from} ${to}`)
      expect([...direct].sort()).toEqual(
        [...new Set(known)].filter((one) => direct.has(one)).sort(),
      )
      for (const one of known) expect(direct).toContain(one)
    }),
    { numRuns: runs(15) },
  )
})
