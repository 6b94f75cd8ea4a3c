import type { Address } from '../address/address'
import { addressOf, prefixOf } from '../address/prefix'
import { prefixTable } from '../address/prefix-table'
import type { Estate, Firewall } from '../format/estate'
import type { Compiled, FirewallModel, FirewallSide, Model } from './model'

/** A firewall with its interfaces' numbers and its own routes in a table. */
export function compileFirewall(
  index: Model['index'],
  source: Firewall,
  base: Compiled,
): FirewallModel {
  const routed = source.style === 'routed' ? source : null
  const routes = (routed?.routes ?? []).filter((route) => (route.state ?? 'up') === 'up')
  return {
    ...base,
    style: source.style,
    stateful: source.stateful ?? true,
    interfaces: Object.entries(routed?.interfaces ?? {}).flatMap(([label, id]) => {
      const number = index.interfaces.get(id)
      return number === undefined ? [] : [{ label, interface: number }]
    }),
    routes:
      routed?.routes === undefined || routed.routes.length === 0
        ? null
        : prefixTable(
            routes.map((route) => ({
              prefix: prefixOf(route.to),
              value: route.via === 'drop' ? 'drop' : (addressOf(route.via.address) as Address),
            })),
          ),
    source,
  }
}

/** The side of a routed firewall that each of its interfaces is. */
export function firewallSides(firewalls: readonly FirewallModel[]): Map<number, FirewallSide> {
  const out = new Map<number, FirewallSide>()
  for (const firewall of firewalls) {
    if (firewall.source.state === 'deleted') continue
    for (const { label, interface: number } of firewall.interfaces)
      out.set(number, { firewall: firewall.index, label })
  }
  return out
}

/** The addressed endpoint that each of its interfaces belongs to. */
export function endpointInterfaces(estate: Estate, index: Model['index']): Map<number, string> {
  const out = new Map<number, string>()
  for (const [id, endpoint] of estate.endpoints) {
    if (endpoint.style !== 'addressed' || endpoint.state === 'deleted') continue
    for (const one of endpoint.interfaces ?? []) {
      const number = index.interfaces.get(one)
      if (number !== undefined) out.set(number, id)
    }
  }
  return out
}
