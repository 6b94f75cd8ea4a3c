import fc from 'fast-check'
import {
  addressOf,
  exitsOf,
  formatAddress,
  isRefusal,
  trace,
  type ExitRow,
  type Model,
} from '../../src/index'
import { modelOf } from '../trace/fixtures'

const estate = {
  networks: { shop: { ranges: ['10.1.0.0/16', '2001:db8:1::/56'], defaultRouteTable: 'private' } },
  subnets: {
    edge: { network: 'shop', ranges: ['10.1.0.0/24'], routeTable: 'public' },
    web: {
      network: 'shop',
      ranges: ['10.1.1.0/24', '2001:db8:1:1::/64'],
      routeTable: 'public',
      role: 'private',
    },
    app: { network: 'shop', ranges: ['10.1.2.0/24'] },
    cards: { network: 'shop', ranges: ['10.1.3.0/24'], routeTable: 'closed', role: 'isolated' },
  },
  interfaces: {
    'web-1': {
      subnet: 'web',
      addresses: ['10.1.1.10', '2001:db8:1:1::10'],
      publicAddress: '203.0.113.5',
    },
    'web-2': { subnet: 'web', addresses: ['10.1.1.20'] },
    'app-1': { subnet: 'app', addresses: ['10.1.2.10'] },
  },
  routeTables: {
    public: {
      network: 'shop',
      routes: [
        { to: '0.0.0.0/0', via: { gateway: 'door' } },
        { to: '::/0', via: { gateway: 'door' } },
      ],
    },
    private: {
      network: 'shop',
      routes: [
        { to: '0.0.0.0/0', via: { nat: 'n' } },
        { to: '198.51.100.128/25', via: 'drop' },
        { to: '192.0.2.7/32', via: { gateway: 'gone' } },
      ],
    },
    closed: { network: 'shop' },
  },
  gateways: { door: { kind: 'internet', network: 'shop' } },
  nats: {
    n: {
      network: 'shop',
      placement: { subnet: 'edge' },
      addresses: ['203.0.113.9'],
      rules: [{ order: 1, to: ['198.51.100.0/27', '198.51.100.192/27'], use: ['203.0.113.10'] }],
    },
  },
  parties: { broker: { ranges: ['198.51.100.80/32'] } },
}
const model = modelOf(estate)
const row = (of: Model, id: string): ExitRow => exitsOf(of, of.subnets[of.index.subnets.get(id)!]!)

test('the internet is cut where the way changes, and nowhere else', () => {
  expect(
    row(model, 'app').internet.map(({ ranges, way, cause, seenAs }) => [
      ranges,
      way,
      cause?.code ?? null,
      seenAs,
    ]),
  ).toEqual([
    [null, ['nats/n', 'gateways/door'], null, ['203.0.113.9']],
    [['192.0.2.7/32'], [], 'target-missing', []],
    [['198.51.100.0/27'], ['nats/n', 'gateways/door'], null, ['203.0.113.10']],
    [['198.51.100.128/25'], [], 'drop-route', []],
  ])
})

test('hosts that differ are told apart', () => {
  expect(
    row(model, 'web').internet.map(({ hosts, family, kind }) => [hosts, family, kind]),
  ).toEqual([
    [['web-1'], 4, 'direct'],
    [['web-1'], 6, 'direct'],
    [['web-2'], 4, 'lost'],
  ])
})

test('inside the network it is local, unless a longer route steers it', () => {
  expect(row(model, 'app').sameNetwork.map(({ kind }) => kind)).toEqual(['local'])
  const steered = modelOf(estate, {
    routeTables: { private: { routes: [{ to: '10.1.3.0/24', via: 'drop' }] } },
  })
  expect(row(steered, 'app').sameNetwork.map(({ kind, ranges }) => [kind, ranges])).toEqual([
    ['local', null],
    ['lost', ['10.1.3.0/24']],
  ])
})

test('each way agrees with the trace of any packet in its ranges', () => {
  const ways = row(model, 'app').internet.filter((way) => way.ranges !== null)
  const address = fc
    .constantFrom(...ways.flatMap((way) => way.ranges!.map((range) => ({ way, range }))))
    .chain(({ way, range }) => {
      const [base, length] = range.split('/')
      return fc
        .nat(2 ** (32 - Number(length)) - 1)
        .map((offset) => ({ way, to: formatAddress((addressOf(base!) as number) + offset) }))
    })
  fc.assert(
    fc.property(address, ({ way, to }) => {
      const answer = trace(model, { from: 'interface:app-1', to, port: 443 })
      if (isRefusal(answer)) throw new Error(answer.message)
      expect({
        way: answer.way,
        code: answer.cause?.code,
        leavesBy: answer.leavesBy,
        seenAs: answer.seenAs,
      }).toEqual({
        way: way.way,
        code: way.cause?.code,
        leavesBy: way.leavesBy,
        seenAs: way.seenAs,
      })
    }),
  )
})

test('the question of a way shows that way', () => {
  for (const id of ['edge', 'web', 'app', 'cards']) {
    for (const way of [...row(model, id).internet, ...row(model, id).sameNetwork]) {
      const answer = trace(model, { ...way.question, port: 443 })
      if (isRefusal(answer)) throw new Error(answer.message)
      expect(answer.cause?.code ?? null).toBe(way.cause?.code ?? null)
    }
  }
})
