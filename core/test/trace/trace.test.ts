import {
  answerTo,
  packetJson,
  trace,
  type Fact,
  type FactsEvidence,
  type StationJson,
  type Trace,
} from '../../src/index'
import { ask, fixtures, modelOf } from './fixtures'

const shop = {
  networks: { shop: { ranges: ['10.1.0.0/16'], defaultRouteTable: 'private' } },
  subnets: {
    edge: { network: 'shop', ranges: ['10.1.0.0/24'], routeTable: 'public' },
    app: { network: 'shop', ranges: ['10.1.1.0/24'] },
  },
  interfaces: { 'app-1': { subnet: 'app', addresses: ['10.1.1.10'], ruleSets: ['web'] } },
  routeTables: {
    public: { network: 'shop', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
    private: { network: 'shop', routes: [{ to: '0.0.0.0/0', via: { nat: 'n' } }] },
  },
  gateways: { door: { kind: 'internet', network: 'shop' } },
  nats: { n: { network: 'shop', placement: { subnet: 'edge' }, addresses: ['203.0.113.9'] } },
  ruleSets: {
    web: { rules: [{ direction: 'out', protocol: 'tcp', ports: [443], peers: ['any'] }] },
  },
}

test('the document is the one the design fixes', () => {
  const answer = ask(modelOf(shop), 'interface:app-1 > 198.51.100.20 tcp 443')
  expect(Object.keys(answer)).toEqual(
    expect.arrayContaining([
      'question',
      'verdict',
      'cause',
      'seenAs',
      'way',
      'leavesBy',
      'forward',
      'return',
      'branches',
      'assumed',
    ]),
  )
  expect(answer.question).toEqual({
    from: 'interface:app-1',
    to: '198.51.100.20',
    protocol: 'tcp',
    port: 443,
    sourcePort: 50000,
  })
  expect(answer.forward.outcome).toBe('delivered')
  expect(answer.forward.stations[0]).toEqual({
    at: 'interfaces/app-1',
    kind: 'source',
    decision: 'in app, shop',
    packet: {
      src: '10.1.1.10',
      dst: '198.51.100.20',
      protocol: 'tcp',
      srcPort: 50000,
      dstPort: 443,
    },
    evidence: {},
  })
  expect(answer.forward.stations.map((s) => `${s.kind} ${s.at}`)).toEqual([
    'source interfaces/app-1',
    'rules interfaces/app-1',
    'lookup routeTables/private',
    'nat nats/n',
    'lookup routeTables/public',
    'gateway gateways/door',
    'delivery internet',
  ])
  expect(answer.return?.stations.map((s) => `${s.kind} ${s.at}`)).toEqual([
    'source internet',
    'gateway gateways/door',
    'nat nats/n',
    'lookup routeTables/public',
    'rules interfaces/app-1',
    'delivery interfaces/app-1',
  ])
  expect(answer.branches).toEqual([])
  expect(answer.assumed).toEqual([])
})

test('the answer is translated back step by step', () => {
  const { return: back } = ask(modelOf(shop), 'interface:app-1 > internet')
  expect(back!.stations.map((s) => `${s.packet.src} ${s.packet.dst}`)).toEqual([
    '1.0.0.0 203.0.113.9',
    '1.0.0.0 203.0.113.9',
    '1.0.0.0 10.1.1.10',
    '1.0.0.0 10.1.1.10',
    '1.0.0.0 10.1.1.10',
    '1.0.0.0 10.1.1.10',
  ])
})

test('evidence of a look-up names every candidate and why it lost', () => {
  const { forward } = ask(modelOf(shop), 'interface:app-1 > 10.1.0.9')
  const lookup = forward.stations.find((s) => s.kind === 'lookup')!
  expect(lookup.evidence).toMatchObject({
    subnet: 'subnets/app',
    table: 'routeTables/private',
    tableIs: 'default',
    candidates: [
      { to: '10.1.0.0/16', via: 'local', origin: 'built in', outcome: 'won' },
      {
        to: '0.0.0.0/0',
        via: 'nat n',
        origin: 'table',
        outcome: 'lost',
        sentence: 'lost: shorter prefix, 0 against 16',
      },
    ],
  })
})

test('evidence of rules names every rule asked, what of it did not fit, and the one that decided', () => {
  const { forward } = ask(modelOf(shop), 'interface:app-1 > internet tcp 80')
  const rules = forward.stations.find((s) => s.kind === 'rules')!
  expect(rules.evidence).toMatchObject({
    direction: 'out',
    levels: [
      {
        level: 'interface',
        passes: false,
        sets: [
          {
            set: 'ruleSets/web',
            decidedBy: null,
            rules: [{ entry: 0, mismatch: 'port', says: 'allow out tcp 443 to any' }],
          },
        ],
      },
    ],
  })
})

describe('evidence of what decides by plain conditions', () => {
  const factsOf = (station: StationJson | undefined): readonly Fact[] =>
    station && 'facts' in station.evidence
      ? (station.evidence as unknown as FactsEvidence).facts
      : []
  /** Elsewhere the fault lies with what is behind the element, or with another element. */
  const OWN = [
    'no-public-address',
    'peering-not-transitive',
    'forwarded-refused',
    'wrong-service',
    'service-other-region',
    'no-listener',
    'gateway-wrong-family',
    'gateway-outbound-only',
    'site-does-not-have-it',
  ]
  const asked = fixtures().flatMap(({ name, fixture }) =>
    fixture.cases.filter((one) => one.refused === undefined).map((one) => ({ name, fixture, one })),
  )
  test.each(asked.map((one) => [`${one.name}: ${one.one.why} (${one.one.ask})`, one] as const))(
    '%s',
    (_, { fixture, one }) => {
      const {
        cause,
        forward,
        return: back,
        verdict,
      } = ask(modelOf(fixture.estate, one.edit), one.ask)
      const stations = [...forward.stations, ...(back?.stations ?? [])]
      const failing =
        cause && (cause.direction === 'forward' ? forward : back!).stations[cause.station]
      // Of several gateways that announce something only the chosen ones hold.
      const decisive = stations.filter(
        (station) =>
          ['gateway', 'peering', 'endpoint'].includes(station.kind) &&
          !station.decision.startsWith('comes in from'),
      )
      if (verdict === 'works')
        expect(decisive.flatMap(factsOf).filter(({ holds }) => !holds)).toEqual([])
      if (cause && OWN.includes(cause.code) && factsOf(failing!).length > 0)
        expect(factsOf(failing!).some(({ holds }) => !holds)).toBe(true)
    },
  )
  test('each condition with what was found', () => {
    const { estate } = fixtures().find(({ name }) => name === 'peering')!.fixture
    const { forward } = ask(modelOf(estate), 'interface:a-1 > interface:c-1')
    expect(factsOf(forward.stations.at(-1))).toEqual([
      { asks: 'it is up', found: 'yes', holds: true },
      { asks: 'the destination is in b', found: '10.3.1.10, of 10.2.0.0/16', holds: false },
      { asks: 'the source is in a', found: '10.1.1.10', holds: true },
    ])
  })
})

test('evidence is built only when asked for', () => {
  const answer = trace(
    modelOf(shop),
    { from: 'interface:app-1', to: 'internet', port: 443 },
    { evidence: false },
  ) as Trace
  expect(answer.forward.stations.every((s) => Object.keys(s.evidence).length === 0)).toBe(true)
})

describe('beyond the first fault', () => {
  const broken = modelOf(shop, {
    routeTables: { public: { routes: [] } },
    ruleSets: { web: { rules: [] } },
  })
  test('without continue the walk ends at it', () => {
    const answer = ask(broken, 'interface:app-1 > internet')
    expect(answer.cause).toMatchObject({
      code: 'denied-interface',
      direction: 'forward',
      station: 1,
    })
    expect(answer.return).toBeNull()
    expect(answer.faults).toHaveLength(1)
  })
  test('with continue all faults of the path are known, and what was assumed is marked', () => {
    const answer = trace(broken, {
      from: 'interface:app-1',
      to: 'internet',
      port: 443,
      continue: true,
    }) as Trace
    expect(answer.verdict).toBe('blocked')
    expect(answer.cause).toMatchObject({ code: 'denied-interface', station: 1 })
    expect(answer.faults.map((f) => f.code)).toEqual(['denied-interface', 'nat-without-way-out'])
    expect(answer.assumed.map((a) => a.what)).toEqual([
      'web allows the packet',
      'a route leads there',
    ])
    expect(answer.forward.stations.map((s) => s.assumed ?? false)).toEqual([
      false,
      false,
      true,
      true,
      true,
      true,
      true,
    ])
    expect(answer.return?.stations.every((s) => s.assumed)).toBe(true)
    // The way and what the far side sees speak only of what is.
    expect(answer.way).toEqual([])
    expect(answer.seenAs).toEqual([])
  })
})

test('branches of equal cost: the worst is on top, all are listed', () => {
  const model = modelOf({
    networks: {
      n: { ranges: ['10.1.0.0/16'], behaviour: 'priority-routed', defaultRouteTable: 't' },
    },
    subnets: { s: { network: 'n', ranges: ['10.1.1.0/24'] } },
    interfaces: { a: { subnet: 's', addresses: ['10.1.1.9'], publicAddress: '203.0.113.5' } },
    routeTables: {
      t: {
        network: 'n',
        routes: [
          { to: '0.0.0.0/0', via: { gateway: 'door' } },
          { to: '0.0.0.0/0', via: 'drop' },
        ],
      },
    },
    gateways: { door: { kind: 'internet', network: 'n' } },
  })
  const answer = ask(model, 'interface:a > internet')
  expect(answer.verdict).toBe('blackholed')
  expect(answer.branches.map((b) => b.verdict)).toEqual(['works', 'blackholed'])
  expect(answer.cause).toMatchObject({ code: 'drop-route' })
})

test('a question by name says who answered, and which name servers can be reached', () => {
  const named = fixtures().find(({ name }) => name === 'names')!.fixture
  expect(ask(modelOf(named.estate), 'interface:app-1 > name:db.shop.internal').name).toEqual({
    asked: 'db.shop.internal',
    answeredBy: 'nameZones/shop.internal',
    addresses: ['10.1.1.20'],
    nameServers: [
      { address: '10.1.1.53', reachable: true },
      { address: '10.1.9.53', reachable: false },
    ],
  })
})

test('the answer through a frontend: the target to the frontend, then the frontend to its caller', () => {
  const { estate } = fixtures().find(({ name }) => name === 'frontends')!.fixture
  const { return: back } = ask(modelOf(estate), 'internet > 203.0.113.40')
  expect(back!.stations.map((s) => `${s.kind} ${s.at}`)).toEqual([
    'source interfaces/app-1',
    'rules interfaces/app-1',
    'lookup routeTables/inside',
    'rules frontends/shop-front',
    'frontend frontends/shop-front',
    'frontend frontends/shop-front',
    'rules frontends/shop-front',
    'gateway gateways/door',
    'delivery internet',
  ])
  expect(back!.stations.at(-1)!.packet).toMatchObject({
    src: '203.0.113.40',
    dst: '1.0.0.0',
    srcPort: 443,
    dstPort: 50000,
  })
})

test('an answer swaps both ends and both ports', () => {
  const packet = { src: 1, dst: 2, protocol: 6, srcPort: 50000, dstPort: 443 }
  expect(packetJson(answerTo(packet))).toEqual({
    src: '0.0.0.2',
    dst: '0.0.0.1',
    protocol: 'tcp',
    srcPort: 443,
    dstPort: 50000,
  })
})
