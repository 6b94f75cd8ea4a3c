import { cached } from '../incremental/cells'
import { prefixFamily, prefixOf, prefixesOverlap } from '../address/prefix'
import type { Operation } from '../changes/index'
import type { Route } from '../format/estate'
import type { Model } from '../model/model'
import { addressOfWall, approachesTo, subnetsOfWall } from '../steering/approach'
import { rangesOfNetwork } from './networks'
import { lead, type Tables } from '../steering/tables'
import { acceptForwarded, routesOfWall } from '../steering/wall-routes'

/** Networks with a firewall each that a move joins, or that are joined already. */
export interface JoinedHubs {
  readonly hub: string
  readonly other: string
  /** Null while the move makes the peering, which accepts forwarded packets from the start. */
  readonly peering: string | null
}

/**
 * Tells routed firewalls of joined hubs each other's ranges: those of the other hub and of the
 * networks that get to its firewall. The subnet that a firewall hands packets to is led to the
 * other's address over the peering, its own routes lead them there, and both hubs take forwarded
 * packets. Firewalls of which the hub is not default-open cannot be told over a peering, and are
 * named. Costs a step for each network and pair of firewalls.
 */
export function tellWalls(
  model: Model,
  under: Tables,
  pairs: readonly JoinedHubs[],
): { readonly operations: readonly Operation[]; readonly notes: readonly string[] } {
  const operations = new Map<string, Operation>()
  const wanted = new Map<string, { hub: string; wall: string; routes: Route[] }>()
  const notes: string[] = []
  const found = new Map<string, ReturnType<typeof approachesTo>>()
  const approachesOf = (wall: string): ReturnType<typeof approachesTo> =>
    cached(found, wall, () => approachesTo(model, wall))
  for (const { hub, other, peering } of pairs.flatMap(bothWays)) {
    for (const wall of wallsIn(model, hub)) {
      for (const far of wallsIn(model, other)) {
        const source = model.estate.firewalls.get(wall)!
        if (model.networks[model.index.networks.get(hub)!]!.behaviour !== 'default-open') {
          notes.push(`${wall}: the tables of ${hub} cannot lead to ${far} over a peering`)
          continue
        }
        const ranges = rangesBehind(model, approachesOf(far), hub)
        for (const operation of [
          ...routesOfWall(model, wall, source, ranges),
          ...acceptForwarded(model, hub, peering),
        ])
          operations.set(JSON.stringify(operation), operation)
        const [inside] = subnetsOfWall(model, source)
        const routes = ranges.flatMap((to): Route[] => {
          const address = addressOfWall(
            model,
            model.estate.firewalls.get(far)!,
            prefixFamily(prefixOf(to)),
          )
          return address === null ? [] : [{ to, via: { address } }]
        })
        if (inside === undefined || routes.length === 0) continue
        const known = wanted.get(inside)
        if (known) known.routes.push(...routes)
        else wanted.set(inside, { hub, wall, routes })
      }
    }
  }
  for (const [subnet, { hub, wall, routes }] of wanted)
    lead(model, under, { subnets: [subnet], routes, name: `${hub}-by-${wall}` })
  return { operations: [...operations.values()], notes: [...new Set(notes)] }
}

const bothWays = (pair: JoinedHubs): JoinedHubs[] => [
  pair,
  { hub: pair.other, other: pair.hub, peering: pair.peering },
]

/** The routed firewalls that stand in a network. */
const wallsIn = (model: Model, network: string): string[] =>
  [...model.estate.firewalls].flatMap(([id, source]) =>
    source.style === 'routed' &&
    subnetsOfWall(model, source).some((one) => model.estate.subnets.get(one)?.network === network)
      ? [id]
      : [],
  )

/** The ranges of a firewall's network and of those that get to it, but for what `hub` has too. */
function rangesBehind(
  model: Model,
  approaches: ReadonlyMap<string, unknown>,
  hub: string,
): string[] {
  const own = rangesOfNetwork(model, hub).map(prefixOf)
  const behind = [...approaches.keys()].flatMap((id) =>
    id === hub ? [] : rangesOfNetwork(model, id),
  )
  return [...new Set(behind)].filter((one) => !own.some((x) => prefixesOverlap(x, prefixOf(one))))
}
