import { targetRef, type Target, type TargetKind } from '../../src/model/targets'
import {
  applianceAt,
  faultOf,
  firewallAt,
  isOwned,
  NEXT_HOPS,
  targetText,
} from '../../src/walk/next-hops/registry'
import { modelOf } from '../trace/fixtures'

const model = modelOf({
  format: 'salt-trail/1',
  name: 'Next hops',
  networks: {
    shop: { ranges: ['10.1.0.0/16'] },
    pier: { ranges: ['10.2.0.0/16'] },
  },
  subnets: {
    edge: { network: 'shop', ranges: ['10.1.0.0/24'] },
    wall: { network: 'shop', ranges: ['10.1.1.0/24'] },
  },
  interfaces: {
    router: { subnet: 'edge', addresses: ['10.1.0.9'], forwards: true },
    host: { subnet: 'edge', addresses: ['10.1.0.10'] },
    inner: { subnet: 'wall', addresses: ['10.1.1.9'], forwards: true },
  },
  firewalls: {
    routed: { style: 'routed', network: 'shop', interfaces: { inside: 'inner' } },
    inline: { style: 'inline', network: 'shop', endpoints: { a: { subnet: 'wall' } } },
  },
  gateways: {
    door: { kind: 'internet', network: 'shop' },
    shut: { kind: 'internet', network: 'shop', state: 'down' },
    far: { kind: 'internet', network: 'pier' },
  },
  nats: { tide: { network: 'shop', placement: { subnet: 'edge' }, addresses: ['203.0.113.9'] } },
  peerings: { 'shop-pier': { a: { network: 'shop' }, b: { network: 'pier' } } },
  transits: { ferry: { attachments: { s: { network: 'shop', subnets: ['edge'] } } } },
  services: { store: { ranges: ['198.51.100.0/24'] } },
  endpoints: { shelf: { style: 'routed', service: 'store', network: 'shop' } },
})
const SHOP = model.index.networks.get('shop')!
const named = <K extends TargetKind>(kind: K, section: 'gateways' | 'interfaces', id: string) => ({
  kind,
  id,
  index: model.index[section].get(id) ?? -1,
})

/** One next hop of each kind that is there and up. */
const SOUND: { readonly [K in TargetKind]: Extract<Target, { kind: K }> } = {
  local: { kind: 'local' },
  drop: { kind: 'drop' },
  internet: { kind: 'internet' },
  address: { kind: 'address', address: 0x0a010009 },
  gateway: named('gateway', 'gateways', 'door'),
  nat: { kind: 'nat', id: 'tide', index: 0 },
  peering: { kind: 'peering', id: 'shop-pier', index: 0 },
  interface: named('interface', 'interfaces', 'router'),
  transit: { kind: 'transit', id: 'ferry', index: 0 },
  endpoint: { kind: 'endpoint', id: 'shelf', index: 0 },
  inspect: {
    kind: 'inspect',
    id: 'inline',
    index: model.index.firewalls.get('inline')!,
    endpoint: 'a',
  },
  'service-switch': { kind: 'service-switch', id: 'store', index: 0 },
}
const kinds = Object.keys(NEXT_HOPS) as TargetKind[]

test.each([
  ['local', 'local', null],
  ['drop', 'drop', null],
  ['internet', 'internet', null],
  ['address', 'address 10.1.0.9', null],
  ['gateway', 'gateway door', 'gateways/door'],
  ['nat', 'nat tide', 'nats/tide'],
  ['peering', 'peering shop-pier', 'peerings/shop-pier'],
  ['interface', 'interface router', 'interfaces/router'],
  ['transit', 'transit ferry', 'transits/ferry'],
  ['endpoint', 'endpoint shelf', 'endpoints/shelf'],
  ['inspect', 'inspect inline/a', 'firewalls/inline'],
  ['service-switch', 'service switch to store', 'services/store'],
] as const)('%s is called “%s” and refers to %s', (kind, text, ref) => {
  expect([targetText(SOUND[kind]), targetRef(SOUND[kind])]).toEqual([text, ref])
})

test.each(kinds.filter((kind) => kind !== 'drop'))(
  '%s that is there and up loses nothing',
  (kind) => {
    expect(faultOf(model, SHOP, SOUND[kind])).toBeNull()
  },
)

test.each(['gateway', 'nat', 'peering', 'transit', 'endpoint', 'inspect'] as const)(
  '%s that is gone is missing, whatever it was',
  (kind) => {
    const gone = { ...SOUND[kind], id: 'gone', index: -1 } as Target
    expect(faultOf(model, SHOP, gone)).toMatchObject({ code: 'target-missing' })
  },
)

test('a gateway that is down, or of another network, says so', () => {
  expect(faultOf(model, SHOP, named('gateway', 'gateways', 'shut'))).toMatchObject({
    code: 'target-not-up',
    object: 'gateways/shut',
  })
  expect(faultOf(model, SHOP, named('gateway', 'gateways', 'far'))).toMatchObject({
    code: 'target-elsewhere',
  })
})

test('an address that nobody has, and a host that does not forward, are next hops that lose', () => {
  expect(faultOf(model, SHOP, { kind: 'address', address: 0x0a010063 })).toMatchObject({
    code: 'next-hop-missing',
  })
  expect(faultOf(model, SHOP, named('interface', 'interfaces', 'host'))).toMatchObject({
    code: 'next-hop-not-forwarding',
  })
})

test('appliances are found behind addresses, interfaces and endpoints, and nowhere else', () => {
  const led = kinds.filter((kind) => applianceAt(model, SHOP, SOUND[kind]) !== null)
  expect(led.sort()).toEqual(['address', 'inspect', 'interface'])
  expect(firewallAt(model, SHOP, SOUND.inspect)?.ref).toBe('firewalls/inline')
  expect(firewallAt(model, SHOP, named('interface', 'interfaces', 'inner'))?.ref).toBe(
    'firewalls/routed',
  )
  expect(firewallAt(model, SHOP, SOUND.interface)).toBeNull()
})

test('only addresses and interfaces are found by their owner', () => {
  expect(kinds.filter((kind) => isOwned(SOUND[kind])).sort()).toEqual(['address', 'interface'])
})

test('what the map draws names a column for every mark', () => {
  for (const kind of kinds) {
    const { drawn } = NEXT_HOPS[kind]
    if (drawn?.as === 'mark') expect([drawn.column, drawn.word].every(Boolean)).toBe(true)
  }
  expect(kinds.filter((kind) => NEXT_HOPS[kind].drawn?.as === 'mark').length).toBeGreaterThan(3)
})
