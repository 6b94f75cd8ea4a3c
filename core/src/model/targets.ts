import type { Address } from '../address/address'
import { addressOf } from '../address/prefix'
import type { Via } from '../format/estate'
import type { MapSection } from '../format/schema/document'

/** The number of each object that is there, by section and id. */
export type ObjectNumbers = { readonly [S in MapSection]: ReadonlyMap<string, number> }

/** A next hop that is an object of the estate; `index` is −1 where it is missing or deleted. */
interface Named<K extends string> {
  readonly kind: K
  readonly id: string
  readonly index: number
}

/** Where a route hands packets to. What each kind does is in `walk/next-hops/`, one file a kind. */
export type Target =
  | { readonly kind: 'local' }
  | { readonly kind: 'drop' }
  | { readonly kind: 'internet' }
  | { readonly kind: 'address'; readonly address: Address }
  | Named<'gateway'>
  | Named<'nat'>
  | Named<'peering'>
  | Named<'interface'>
  | Named<'transit'>
  | Named<'endpoint'>
  | Named<'service-switch'>
  | (Named<'inspect'> & { readonly endpoint: string })

export type TargetKind = Target['kind']
export type TargetOf<K extends TargetKind> = Extract<Target, { readonly kind: K }>

/** The section that a kind of next hop refers to; null where it refers to no object by its id. */
export const TARGET_SECTIONS = {
  local: null,
  drop: null,
  internet: null,
  address: null,
  gateway: 'gateways',
  nat: 'nats',
  peering: 'peerings',
  interface: 'interfaces',
  transit: 'transits',
  endpoint: 'endpoints',
  inspect: 'firewalls',
  'service-switch': 'services',
} as const satisfies Record<TargetKind, MapSection | null>

/** The object a next hop refers to, as `section/id`; null where it refers to none. */
export function targetRef(target: Target): string | null {
  const section = TARGET_SECTIONS[target.kind]
  return section !== null && 'id' in target ? `${section}/${target.id}` : null
}

/** The kinds that a written route names by a key with an id. */
const WRITTEN = ['nat', 'gateway', 'endpoint', 'peering', 'interface', 'transit'] as const

/** A written next hop with the number of its object. */
export function targetOf(index: ObjectNumbers, via: Via): Target {
  if (typeof via === 'string') return { kind: via }
  if (via.address !== undefined) return { kind: 'address', address: addressOf(via.address) }
  if (via.inspect !== undefined) return inspectTarget(index, via.inspect)
  const kind = WRITTEN.find((one) => via[one] !== undefined)!
  const id = via[kind]!
  return { kind, id, index: index[TARGET_SECTIONS[kind]].get(id) ?? -1 }
}

/**
 * `firewall/endpoint`; either may hold slashes, so the longest firewall id that exists is taken.
 */
function inspectTarget(index: ObjectNumbers, text: string): Target {
  let slash = text.lastIndexOf('/')
  const fallback = slash
  while (slash > 0 && !index.firewalls.has(text.slice(0, slash)))
    slash = text.lastIndexOf('/', slash - 1)
  if (slash <= 0) slash = fallback
  const id = slash < 0 ? text : text.slice(0, slash)
  const endpoint = slash < 0 ? '' : text.slice(slash + 1)
  return { kind: 'inspect', id, index: index.firewalls.get(id) ?? -1, endpoint }
}

/** A written next hop in words. */
export const viaText = (via: Via): string =>
  typeof via === 'string' ? via : Object.entries(via).map((one) => one.join(' '))[0]!
