import {
  gatherSeen,
  hopMemo,
  isRefusal,
  readOnlooker,
  subnetSeenBy,
  trace,
  type Model,
  type SeenAs,
} from '../../src/index'
import { randomEstate } from '../random/estate'
import { modelOf } from '../trace/fixtures'
import { runs } from '../random/runs'

const estate = {
  networks: { shop: { ranges: ['10.1.0.0/16', '2001:db8:1::/56'] } },
  gateways: { door: { kind: 'internet', network: 'shop' } },
  nats: {
    tide: {
      kind: 'public',
      placement: { subnet: 'edge' },
      network: 'shop',
      addresses: ['203.0.113.10', '203.0.113.11'],
      allocation: 'manual',
      draining: ['203.0.113.11'],
    },
    ebb: {
      kind: 'public',
      placement: { subnet: 'edge' },
      network: 'shop',
      addresses: ['203.0.113.20'],
      allocation: 'automatic',
    },
  },
  publicAddresses: { '203.0.113.10': { reserved: true }, '203.0.113.9': { reserved: false } },
  parties: {
    bank: { ranges: ['198.51.100.80/32'], allowlist: ['203.0.113.10/32', '203.0.113.99/32'] },
  },
  routeTables: {
    out: {
      network: 'shop',
      routes: [
        { to: '0.0.0.0/0', via: { gateway: 'door' } },
        { to: '::/0', via: { gateway: 'door' } },
      ],
    },
    a: { network: 'shop', routes: [{ to: '0.0.0.0/0', via: { nat: 'tide' } }] },
    b: { network: 'shop', routes: [{ to: '0.0.0.0/0', via: { nat: 'ebb' } }] },
    none: { network: 'shop', routes: [] },
  },
  subnets: {
    edge: { network: 'shop', ranges: ['10.1.0.0/24', '2001:db8:1::/64'], routeTable: 'out' },
    app: { network: 'shop', ranges: ['10.1.1.0/24'], routeTable: 'a' },
    jobs: { network: 'shop', ranges: ['10.1.2.0/24'], routeTable: 'b' },
    vault: { network: 'shop', ranges: ['10.1.3.0/24'], routeTable: 'none' },
  },
  interfaces: {
    web: { subnet: 'edge', addresses: ['10.1.0.9', '2001:db8:1::9'], publicAddress: '203.0.113.9' },
    api: { subnet: 'app', addresses: ['10.1.1.9'] },
  },
}

function seen(model: Model, who: string): SeenAs {
  const memo = hopMemo()
  const onlooker = readOnlooker(model, who)!
  return gatherSeen(
    model,
    onlooker,
    [...model.index.subnets.values()].flatMap((index) =>
      subnetSeenBy(model, model.subnets[index]!, onlooker, memo),
    ),
  )
}
const about = (found: SeenAs) =>
  Object.fromEntries(
    found.addresses.map((one) => [one.address, [one.lasting, one.allowed, one.subnets.join()]]),
  )

test('a party sees each subnet by an address, with how long that lasts and whether its list has it', () => {
  const found = seen(modelOf(estate), 'party:bank')
  expect(about(found)).toEqual({
    '203.0.113.9': ['with-host', false, 'edge'],
    '203.0.113.10': ['reserved', true, 'app'],
    '203.0.113.11': ['draining', false, 'app'],
    '203.0.113.20': ['automatic', false, 'jobs'],
  })
  expect(found.unused).toEqual(['203.0.113.99/32'])
  expect(found.lost.map(({ subnet, cause }) => [subnet, cause!.code])).toEqual([
    ['vault', 'no-route'],
  ])
})

test('one edit away: reserved, listed, and the list is used up', () => {
  const found = seen(
    modelOf(estate, {
      publicAddresses: { '203.0.113.9': { reserved: true } },
      nats: { ebb: { allocation: 'manual' } },
      parties: { bank: { allowlist: ['203.0.113.0/24'] } },
    }),
    'party:bank',
  )
  expect(about(found)).toMatchObject({
    '203.0.113.9': ['reserved', true, 'edge'],
    '203.0.113.20': ['kept', true, 'jobs'],
  })
  expect(found.unused).toEqual([])
})

test('over IPv6 hosts keep their own addresses', () => {
  expect(about(seen(modelOf(estate), 'internet'))['2001:db8:1::/64']).toEqual(['own', null, 'edge'])
})

test('who looks is named as the internet, a party, an address or a prefix', () => {
  const model = modelOf(estate)
  expect(
    ['internet', 'party:bank', '198.51.100.1', '2001:db8:9::/48'].map(
      (text) => readOnlooker(model, text)?.kind,
    ),
  ).toEqual(['internet', 'party', 'range', 'range'])
  expect(
    ['party:none', 'bank', '198.51.100.1/24', ''].map((text) => readOnlooker(model, text)),
  ).toEqual([null, null, null, null])
})

test('an address that is seen is the one a trace shows, in random estates', () => {
  let asked = 0
  for (let seed = 0; seed < runs(25); seed++) {
    const model = modelOf(randomEstate(seed).estate)
    const memo = hopMemo()
    const onlooker = readOnlooker(model, 'internet')!
    for (const index of model.index.subnets.values()) {
      for (const one of subnetSeenBy(model, model.subnets[index]!, onlooker, memo)) {
        if (
          one.cause !== null ||
          one.ranges === null ||
          one.hosts === null ||
          one.addresses.length === 0
        )
          continue
        const host = model.interfaces[model.index.interfaces.get(one.hosts[0]!)!]!
        if (host.addresses.length > 1) continue
        const to = one.ranges[0]!.slice(0, one.ranges[0]!.indexOf('/'))
        const answer = trace(model, {
          from: `interface:${host.id}`,
          to,
          protocol: 'tcp',
          port: 443,
        })
        if (isRefusal(answer) || answer.forward.outcome !== 'delivered') continue
        expect(new Set(answer.seenAs)).toEqual(new Set(one.addresses))
        asked++
      }
    }
  }
  expect(asked).toBeGreaterThan(20)
})
