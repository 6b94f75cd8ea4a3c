import { prefixesOverlap, prefixOf } from '../address/prefix'
import { pointer, type Operation } from '../changes/index'
import type { Network, Route } from '../format/estate'
import type { Model } from '../model/model'
import { wildcard } from '../rules/applies-to'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'
import { noTables, setRoutes } from './tables'

export interface JoinMove {
  /** The hub that each member is joined to; null for a mesh, each with each. */
  readonly hub: string | null
  /** By name. */
  readonly members: readonly string[]
  /** Or by a condition: `tag:key=value`, `region:ID` or a part of the name with `*`. */
  readonly where?: string | undefined
}

/** A move joins no more pairs than this. */
const MOST_PAIRS = 1_000

/**
 * Joins networks by peerings, as hub and spokes or as a mesh, with the routes of both directions in
 * every table of each. Networks of which ranges overlap cannot be joined, and are named.
 */
export function joinNetworks(model: Model, { hub, members, where }: JoinMove): Moved | NotMoved {
  const { estate } = model
  const chosen = [
    ...new Set([
      ...members,
      ...[...estate.networks].flatMap(([id, one]) =>
        where !== undefined && fits(id, one, where) ? [id] : [],
      ),
    ]),
  ].filter((id) => id !== hub)
  const unknown = [...chosen, ...(hub === null ? [] : [hub])].filter(
    (id) => !estate.networks.has(id),
  )
  if (unknown.length > 0) return notMoved(`there is no network ${listed(unknown)} in this estate`)
  const count = hub === null ? (chosen.length * (chosen.length - 1)) / 2 : chosen.length
  if (count > MOST_PAIRS)
    return notMoved(
      `that is ${count} pairs of networks, and one move joins ${MOST_PAIRS} at most; ` +
        'choose fewer, or a hub',
    )
  const pairs =
    hub === null
      ? chosen.flatMap((a, at) => chosen.slice(at + 1).map((b) => [a, b] as const))
      : chosen.map((spoke) => [hub, spoke] as const)
  if (pairs.length === 0) return notMoved('choose networks to join: two at least')
  const under = noTables()
  const operations: Operation[] = []
  const notes: string[] = []
  for (const [a, b] of pairs) {
    if (overlap(model, a, b)) {
      notes.push(`${a} and ${b} have ranges in common and cannot be joined`)
      continue
    }
    const known = peeringOf(model, a, b)
    const id = known ?? `${a}-${b}`
    if (!known)
      operations.push({
        op: 'add',
        path: pointer('peerings', id),
        value: { a: { network: a }, b: { network: b } },
      })
    leadTo(model, under, a, b, id)
    leadTo(model, under, b, a, id)
  }
  const change = [...operations, ...under.operations]
  if (change.length === 0) return notMoved([...notes, 'all of them are joined already'].join('; '))
  const what =
    hub === null ? `join ${listed(chosen)} as a mesh` : `join ${listed(chosen)} to the hub ${hub}`
  return moved(what, change, notes)
}

/** Whether a network fits a condition on its tag, its region or its name. */
function fits(id: string, network: Network, where: string): boolean {
  const [, kind, value] = /^(tag|region):(.+)$/.exec(where) ?? []
  if (kind === 'region') return network.region === value
  if (kind === 'tag') {
    const [key, ...rest] = value!.split('=')
    return network.tags?.[key!] === rest.join('=')
  }
  return wildcard(where, id)
}

const rangesOf = (model: Model, network: string): string[] => [
  ...(model.estate.networks.get(network)?.ranges ?? []),
]

function overlap(model: Model, a: string, b: string): boolean {
  const [one, other] = [rangesOf(model, a).map(prefixOf), rangesOf(model, b).map(prefixOf)]
  return one.some((x) => other.some((y) => prefixesOverlap(x, y)))
}

const peeringOf = ({ estate }: Model, one: string, other: string): string | undefined =>
  [...estate.peerings].find(
    ([, { a, b }]) =>
      (a.network === one && b.network === other) || (a.network === other && b.network === one),
  )?.[0]

/** Routes in every table of a network to the ranges of another, by a peering. */
function leadTo(
  model: Model,
  under: ReturnType<typeof noTables>,
  from: string,
  to: string,
  peering: string,
): void {
  const network = model.networks[model.index.networks.get(from) ?? -1]
  if (!network || network.behaviour !== 'table-routed') return
  const routes = rangesOf(model, to).map((range): Route => ({ to: range, via: { peering } }))
  const tables = new Set(
    network.subnets.flatMap((index) => {
      const table = model.subnets[index]!.table
      return table < 0 ? [] : [table]
    }),
  )
  for (const index of tables) {
    const { id, source } = model.tables[index]!
    const missing = routes.filter(
      ({ to: wanted }) => !(source.routes ?? []).some((one) => one.to === wanted),
    )
    if (missing.length > 0) setRoutes(under, id, source, missing)
  }
}
