import { prefixFamily, prefixOf } from '../address/prefix'
import { pointer, type Operation } from '../changes/index'
import type { Route, Transit } from '../format/estate'
import type { Model } from '../model/model'
import { subnetsOfWall, type Approach } from '../steering/approach'
import { networksOverlap, rangesOfNetwork } from './networks'

/** Chosen subnets of a network that get to the firewall over a transit. */
export interface Crossing {
  readonly transit: NonNullable<Approach['transit']>
  readonly network: string
  /** The ranges of the chosen subnets. */
  readonly ranges: readonly string[]
}

interface Asked {
  readonly model: Model
  readonly firewall: string
  readonly approaches: ReadonlyMap<string, Approach>
  readonly crossings: readonly Crossing[]
  readonly toInternet: boolean
  readonly toNetworks: boolean
}

interface Through {
  /** Changes of the transits' own tables. */
  readonly operations: readonly Operation[]
  /** The routes of subnets beside the firewall: those attached, and the firewall's own. */
  readonly routes: readonly { readonly subnet: string; readonly routes: readonly Route[] }[]
}

type TransitRoute = NonNullable<NonNullable<Transit['tables']>[string]['routes']>[number]

/**
 * What a transit between networks and a firewall's network needs: in the tables of the networks'
 * attachments, routes to the attachment of the firewall's network; in the attached subnets there,
 * routes to the firewall; and in the firewall's own subnets, routes back to the transit.
 */
export function crossTransits(asked: Asked): Through {
  const { model, approaches, crossings, toInternet, toNetworks } = asked
  const tables = new Map<string, TransitRoute[]>()
  const routes: { subnet: string; routes: Route[] }[] = []
  const inTransit = (transit: string, attachment: string, added: TransitRoute[]): void => {
    const table = model.estate.transits.get(transit)?.attachments?.[attachment]?.table
    if (table === undefined) return
    const key = JSON.stringify([transit, table])
    tables.set(key, [...(tables.get(key) ?? []), ...added])
  }
  for (const { transit, network, ranges } of crossings) {
    const others = toNetworks
      ? [...approaches].filter(([one]) => one !== network && !networksOverlap(model, one, network))
      : []
    const away = others.flatMap(([one]) => rangesOfNetwork(model, one))
    const outwards = [...(toInternet ? defaultsFor(ranges) : []), ...away]
    inTransit(
      transit.id,
      transit.own,
      outwards.map((to) => ({ to, via: transit.wall })),
    )
    inTransit(
      transit.id,
      transit.wall,
      ranges.map((to) => ({ to, via: transit.own })),
    )
    for (const [, { transit: other }] of others)
      if (other?.id === transit.id)
        inTransit(
          other.id,
          other.own,
          ranges.map((to) => ({ to, via: other.wall })),
        )
    routes.push(...besideWall(asked, transit, outwards, ranges))
  }
  return {
    operations: [...tables].flatMap(([key, added]) => operationsOf(model, key, added)),
    routes,
  }
}

/** The default of each family that some ranges are of. */
const defaultsFor = (ranges: readonly string[]): string[] =>
  [...new Set(ranges.map((one) => prefixFamily(prefixOf(one))))].map((family) =>
    family === 4 ? '0.0.0.0/0' : '::/0',
  )

/** Routes of the subnets by which the transit enters, and of those in which the firewall stands. */
function besideWall(
  { model, firewall, approaches }: Asked,
  transit: Crossing['transit'],
  outwards: readonly string[],
  ranges: readonly string[],
): { subnet: string; routes: Route[] }[] {
  const attachment = model.estate.transits.get(transit.id)?.attachments?.[transit.wall]
  const approach = approaches.get(attachment?.network ?? '')
  const wall = subnetsOfWall(model, model.estate.firewalls.get(firewall)!)
  const back = ranges.map((to): Route => ({ to, via: { transit: transit.id } }))
  const entered = (attachment?.subnets ?? []).filter((id) => !wall.includes(id))
  return [
    ...entered.map((subnet) => {
      const zone = model.subnets[model.index.subnets.get(subnet) ?? -1]?.zone ?? null
      return {
        subnet,
        routes: [...outwards, ...ranges].flatMap((to): Route[] => {
          const via = approach?.via(prefixFamily(prefixOf(to)), zone) ?? null
          return via === null ? [] : [{ to, via }]
        }),
      }
    }),
    ...wall.map((subnet) => ({ subnet, routes: back })),
  ]
}

/** Routes added to a transit's table, but for those it has; one to the same place is replaced. */
function operationsOf(model: Model, key: string, added: readonly TransitRoute[]): Operation[] {
  const [transit, id] = JSON.parse(key) as [string, string]
  const table = model.estate.transits.get(transit)?.tables?.[id]
  const known = table?.routes ?? []
  const path = pointer('transits', transit, 'tables', id, 'routes')
  const fresh = [...new Map(added.map((one) => [JSON.stringify(one.to), one])).values()]
  const changed = fresh.flatMap((route): Operation[] => {
    const at = known.findIndex(({ to }) => JSON.stringify(to) === JSON.stringify(route.to))
    if (at < 0) return [{ op: 'add', path: `${path}/-`, value: route }]
    return known[at]!.via === route.via
      ? []
      : [{ op: 'replace', path: `${path}/${at}`, value: route }]
  })
  if (table?.routes !== undefined || changed.length === 0) return changed
  return [{ op: 'add', path, value: fresh }]
}
