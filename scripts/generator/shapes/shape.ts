import type { Draft, Json } from '../draft'
import { networkRange, subnetAddress, subnetRange, ZONES, zonesOf } from '../plan'

/** All shapes lie in one region. */
export const REGION = 'north'

/**
 * One shape of estate, of any size. `subnets` is what the size asks for; a shape has within a few
 * per cent as many. The other kinds of objects grow in proportion.
 */
export type MakeShape = (draft: Draft, subnets: number) => void

/** Of `count` things, whether number `at` has a fault: each tenth, by the offset of the fault. */
export const isFaulty = (at: number, offset: number): boolean => at % 10 === offset

export const putRegion = (draft: Draft): void =>
  draft.put('regions', REGION, { zones: zonesOf(REGION) })

/** A rule set by which a host may ask anybody, and is asked by the organisation on port 443. */
export const OWN_RULES: Json = {
  rules: [
    { direction: 'out', protocol: 'any', peers: ['any'] },
    { direction: 'in', protocol: 'tcp', ports: [443], peers: ['10.0.0.0/8'] },
  ],
}

/** A rule set of forwarders, which take packets of some ranges and send them anywhere. */
export const relayRules = (from: string): Json => ({
  rules: [
    { direction: 'out', protocol: 'any', peers: ['any'] },
    { direction: 'in', protocol: 'any', peers: [from] },
  ],
})

/** A network of `subnets` subnets, each with two hosts; all take `common` besides. */
export function putNetwork(
  draft: Draft,
  number: number,
  id: string,
  subnets: number,
  given: { network?: Json; subnet?: (at: number) => Json; host?: (at: number) => Json } = {},
): void {
  draft.put('networks', id, {
    region: REGION,
    ranges: [networkRange(number)],
    ...given.network,
  })
  for (let at = 0; at < subnets; at++) {
    const subnet = `${id}-s${at}`
    draft.put('subnets', subnet, {
      network: id,
      ranges: [subnetRange(number, at)],
      zone: zonesOf(REGION)[at % ZONES],
      ...given.subnet?.(at),
    })
    for (let host = 0; host < 2; host++)
      draft.put('interfaces', `${subnet}-h${host}`, {
        subnet,
        addresses: [subnetAddress(number, at, 10 + host)],
        ruleSets: ['own-rules'],
        ...given.host?.(at),
      })
  }
}

/**
 * Hub number 0: an edge subnet behind an internet gateway, an inside one, and a routed firewall
 * `wall` between them that lets the organisation's HTTPS, and its way out, pass.
 */
export function putHub(draft: Draft): void {
  draft.put('networks', 'hub', {
    region: REGION,
    ranges: [networkRange(0)],
    defaultRouteTable: 'hub-edge',
  })
  draft.put('gateways', 'hub-door', { kind: 'internet', network: 'hub' })
  draft.put('routeTables', 'hub-edge', {
    network: 'hub',
    routes: [{ to: '0.0.0.0/0', via: { gateway: 'hub-door' } }],
  })
  for (const [at, side] of ['inside', 'outside'].entries()) {
    draft.put('subnets', `hub-${side}`, {
      network: 'hub',
      ranges: [subnetRange(0, at)],
      zone: zonesOf(REGION)[0],
      role: 'inspection',
    })
    draft.put('interfaces', `wall-${side}`, {
      host: 'wall',
      subnet: `hub-${side}`,
      addresses: [subnetAddress(0, at, 10)],
      ruleSets: ['wall-rules'],
      forwards: true,
      ...(side === 'outside' ? { publicAddress: '193.0.0.1' } : {}),
    })
  }
  draft.put('ruleSets', 'wall-rules', relayRules('10.0.0.0/8'))
  draft.put('firewalls', 'wall', {
    style: 'routed',
    interfaces: { inside: 'wall-inside', outside: 'wall-outside' },
    routes: [
      { to: '0.0.0.0/0', via: { address: subnetAddress(0, 1, 1) } },
      { to: '10.0.0.0/8', via: { address: subnetAddress(0, 0, 1) } },
    ],
    policy: [
      { order: 10, fromSide: 'inside', toSide: 'inside', action: 'allow' },
      { order: 20, fromSide: 'inside', toSide: 'outside', action: 'allow' },
    ],
    sourceTranslation: [{ fromSide: 'inside', toSide: 'outside', use: 'interface' }],
  })
}

/** The wall's inside, where spokes send what leaves them. */
export const WALL = subnetAddress(0, 0, 10)
