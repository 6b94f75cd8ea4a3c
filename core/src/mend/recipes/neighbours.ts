import { containsAddress, prefixOf } from '../../address/prefix'
import type { Route, Via } from '../../format/estate'
import { derived } from '../../incremental/derived'
import type { Model } from '../../model/model'
import { mend, type Mend } from '../mend'
import { isUp, type Situation } from '../situation'
import { viaText } from '../../model/targets'
import { addRoute } from './routes'

/** How many subnets look up in tables that have a route, by the route as text. */
interface Followed {
  readonly route: Route
  readonly count: number
}

/** At most this many routes of neighbours are tried. */
const MOST = 4

/**
 * What neighbours do: a route for the destination that most other subnets have and this one's table
 * lacks, led by what can be a next hop here too: the same transit, address or interface, or the own
 * peering with the network that theirs leads to.
 */
export function neighboursRoutes(s: Situation): Mend[] {
  const { lookup, estate, dst, network } = s
  if (!lookup) return []
  const own = new Set(
    (estate.routeTables.get(lookup.table ?? '')?.routes ?? []).map(({ to, via }) =>
      JSON.stringify([to, via]),
    ),
  )
  const found: Mend[] = []
  for (const { route } of followedRoutes(s.model)) {
    if (found.length >= MOST) break
    if (typeof route.to !== 'string' || !holds(route.to, dst) || route.onlyTags) continue
    const via = here(s, route.via)
    if (via === null || own.has(JSON.stringify([route.to, via]))) continue
    const made = mend(
      `route ${route.to} by ${viaText(via)}, as most neighbours of ${network} do`,
      addRoute(s, lookup, route.to, via),
    )
    if (made) found.push({ ...made, asNeighbours: [route.to] })
  }
  return found
}

const holds = (to: string, dst: Situation['dst']): boolean => containsAddress(prefixOf(to), dst)

/** The routes that tables have, those that most subnets follow first; dropping ones left out. */
const followedRoutes = derived((model: Model): readonly Followed[] => {
  const users = new Map<number, number>()
  for (const { table } of model.subnets) users.set(table, (users.get(table) ?? 0) + 1)
  const out = new Map<string, { route: Route; count: number }>()
  for (const { index, source, up } of model.tables) {
    const count = users.get(index) ?? 0
    if (!up || count === 0) continue
    for (const route of source.routes ?? []) {
      if (route.via === 'drop' || route.via === 'local' || !isUp(route)) continue
      const key = JSON.stringify([route.to, farSide(model, source.network, route.via)])
      const known = out.get(key)
      if (known) known.count += count
      else out.set(key, { route, count })
    }
  }
  return [...out.values()].sort((a, b) => b.count - a.count)
})

/** A next hop as neighbours share it: a peering by the network beyond it. */
function farSide({ estate }: Model, network: string | undefined, via: Via): unknown {
  const peering = typeof via === 'object' && via.peering !== undefined ? via.peering : undefined
  const sides = peering === undefined ? undefined : estate.peerings.get(peering)
  if (!sides) return via
  return { beyond: sides.a.network === network ? sides.b.network : sides.a.network }
}

/** The same next hop where this subnet is; null where it cannot be one here. */
function here({ model, estate, network }: Situation, via: Via): Via | null {
  if (typeof via === 'string') return null
  if (via.transit !== undefined) {
    const transit = estate.transits.get(via.transit)
    const attached = Object.values(transit?.attachments ?? {}).some(
      (one) => one.network === network && isUp(one),
    )
    return attached && isUp(transit) ? via : null
  }
  if (via.address !== undefined || via.interface !== undefined) return via
  if (via.peering === undefined) {
    const [section, id] = Object.entries(via)[0]! as [string, string]
    const lists = { gateway: estate.gateways, nat: estate.nats, endpoint: estate.endpoints }
    const object = lists[section as keyof typeof lists]?.get(id)
    return object !== undefined && object.network === network && isUp(object) ? via : null
  }
  const theirs = estate.peerings.get(via.peering)
  const beyond = theirs === undefined ? [] : [theirs.a.network, theirs.b.network]
  const own = [...estate.peerings].find(
    ([, { a, b }]) =>
      (a.network === network && beyond.includes(b.network)) ||
      (b.network === network && beyond.includes(a.network)),
  )
  const index = own === undefined ? undefined : model.index.peerings.get(own[0])
  return index === undefined || !model.peerings[index]!.up ? null : { peering: own![0] }
}
