import { publicAddress, subnetAddress, subnetRange, ZONES, zonesOf } from '../plan'
import type { Json } from '../draft'
import { isFaulty, OWN_RULES, putRegion, REGION, relayRules, type MakeShape } from './shape'

/**
 * One priority-routed network with twice as many routes as subnets, each limited to the hosts of
 * one tag: a way out by a forwarder, and a partner's range past it. One tag of ten has a way out by
 * a host that does not forward, one has none, one's partner range is dropped.
 */
export const priority: MakeShape = (draft, subnets) => {
  putRegion(draft)
  draft.put('ruleSets', 'own-rules', OWN_RULES)
  draft.put('ruleSets', 'relay-rules', relayRules('10.0.0.0/8'))
  draft.put('networks', 'plain', {
    region: REGION,
    ranges: ['10.0.0.0/8'],
    behaviour: 'priority-routed',
    defaultRouteTable: 'plain-table',
  })
  draft.put('gateways', 'plain-door', { kind: 'internet', network: 'plain' })
  draft.put('nats', 'plain-nat', {
    network: 'plain',
    placement: { region: REGION },
    addresses: [publicAddress(0)],
  })
  const routes: Json[] = []
  for (let at = 0; at < subnets; at++) {
    const [network, own] = [at >> 5, at & 31]
    const id = `plain-s${at}`
    const tag = `team-${at}`
    const [deaf, none, dropped] = [1, 2, 3].map((offset) => isFaulty(at, offset))
    draft.put('subnets', id, {
      network: 'plain',
      ranges: [subnetRange(network, own)],
      zone: zonesOf(REGION)[at % ZONES],
    })
    for (let host = 0; host < 2; host++)
      draft.put('interfaces', `${id}-h${host}`, {
        subnet: id,
        addresses: [subnetAddress(network, own, 10 + host)],
        ruleSets: ['own-rules'],
        tags: { [tag]: 'yes' },
      })
    draft.put('interfaces', `${id}-relay`, {
      subnet: id,
      addresses: [subnetAddress(network, own, 20)],
      publicAddress: publicAddress(1 + at),
      ruleSets: ['relay-rules'],
      forwards: !deaf,
      tags: { relay: 'yes' },
    })
    if (!none)
      routes.push({
        to: '0.0.0.0/0',
        via: { interface: `${id}-relay` },
        onlyTags: [tag],
        priority: 100,
      })
    routes.push({
      to: '198.51.100.0/24',
      via: dropped ? 'drop' : { gateway: 'plain-door' },
      onlyTags: [tag],
      priority: 100,
    })
    if (deaf) draft.plant('hole-next-hop', `interfaces/${id}-relay`)
    if (none) draft.plant('hole-no-way-out', `subnets/${id}`)
    if (dropped) draft.plant('drop-route', `subnets/${id}`)
  }
  routes.push({ to: '0.0.0.0/0', via: { gateway: 'plain-door' }, onlyTags: ['relay'] })
  draft.put('routeTables', 'plain-table', { network: 'plain', routes })
}
