import { pointer, type Operation } from '../changes/index'
import type { Network, Route } from '../format/estate'
import { freeId } from '../mend/situation'
import type { Model } from '../model/model'
import { wildcard } from '../rules/applies-to'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'
import { networksOverlap, rangesOfNetwork } from './networks'
import { noTables, setRoutes } from '../steering/tables'
import { tellWalls, type JoinedHubs } from './tell-walls'

export interface JoinMove {
  /** The hub that each member is joined to; null for a mesh, each with each. */
  readonly hub: string | null
  /** By name. */
  readonly members: readonly string[]
  /** Or by a condition: `tag:key=value`, `region:ID` or a part of the name with `*`. */
  readonly where?: string | undefined
  /** The key of a tag: members that carry other values of it are segments that stay apart. */
  readonly apart?: string | undefined
  /** Whether routed firewalls of joined networks are told each other's ranges. */
  readonly tellWalls?: boolean | undefined
}

/** A move joins no more pairs than this. */
const MOST_PAIRS = 1_000

/**
 * Joins networks by peerings, as hub and spokes or as a mesh, with the routes of both directions in
 * every table of each. Networks of which ranges overlap cannot be joined, and are named. Members of
 * segments that stay apart are not joined with each other, and the estate is made to expect that no
 * packet passes between them. Routed firewalls of joined networks can be told each other's ranges.
 */
export function joinNetworks(model: Model, move: JoinMove): Moved | NotMoved {
  const { hub, apart } = move
  const chosen = membersOf(model, move)
  const pairs = pairsOf(model, chosen, move)
  if (!Array.isArray(pairs)) return pairs
  const under = noTables()
  const operations: Operation[] = []
  const notes: string[] = []
  const joined: JoinedHubs[] = []
  for (const [a, b] of pairs) {
    if (networksOverlap(model, a, b)) {
      notes.push(`${a} and ${b} have ranges in common and cannot be joined`)
      continue
    }
    const known = peeringOf(model, a, b)
    const id = known ?? `${a}-${b}`
    const flags = move.tellWalls ? { acceptsForwarded: true } : {}
    if (!known)
      operations.push({
        op: 'add',
        path: pointer('peerings', id),
        value: { a: { network: a, ...flags }, b: { network: b, ...flags } },
      })
    leadTo(model, under, a, b, id)
    leadTo(model, under, b, a, id)
    joined.push({ hub: a, other: b, peering: known ?? null })
  }
  if (move.tellWalls) {
    const told = tellWalls(model, under, joined)
    operations.push(...told.operations)
    notes.push(...told.notes)
  }
  if (apart !== undefined) {
    const expected = expectApart(model, chosen, apart)
    if (!Array.isArray(expected)) return expected
    operations.push(...expected)
  }
  const change = [...operations, ...under.operations]
  if (change.length === 0) return notMoved([...notes, 'all of them are joined already'].join('; '))
  const what =
    hub === null ? `join ${listed(chosen)} as a mesh` : `join ${listed(chosen)} to the hub ${hub}`
  return moved(apart === undefined ? what : `${what}, segments by ${apart} apart`, change, notes)
}

/** The members of a move, by name and by its condition. */
function membersOf({ estate }: Model, { hub, members, where }: JoinMove): string[] {
  const fitting = [...estate.networks].flatMap(([id, one]) =>
    where !== undefined && fits(id, one, where) ? [id] : [],
  )
  return [...new Set([...members, ...fitting])].filter((id) => id !== hub)
}

type PairOfNetworks = readonly [string, string]

/** The pairs of networks that are to be joined, or why none can be. */
function pairsOf(
  model: Model,
  chosen: readonly string[],
  { hub, apart }: JoinMove,
): PairOfNetworks[] | NotMoved {
  const { estate } = model
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
  const isApart = (a: string, b: string): boolean =>
    apart !== undefined && segmentOf(model, a, apart) !== segmentOf(model, b, apart)
  const pairs: PairOfNetworks[] =
    hub === null
      ? chosen.flatMap((a, at) =>
          chosen.slice(at + 1).flatMap((b): PairOfNetworks[] => (isApart(a, b) ? [] : [[a, b]])),
        )
      : chosen.map((spoke): PairOfNetworks => [hub, spoke])
  if (pairs.length > 0) return pairs
  return chosen.length < 2
    ? notMoved('choose networks to join: two at least')
    : notMoved(`no two of them have the same value of "${apart}": nothing is left to join`)
}

/** The segment of a network: the value of a tag; those without it are one segment. */
const segmentOf = ({ estate }: Model, network: string, key: string): string =>
  estate.networks.get(network)?.tags?.[key] ?? ''

/** More segments than these are told apart by no move: each expectation names all the others. */
const MOST_SEGMENTS = 40

/**
 * An expectation for each segment, that none of its packets gets to another, but for those that are
 * there; or why there are too many.
 */
function expectApart(
  model: Model,
  members: readonly string[],
  key: string,
): Operation[] | NotMoved {
  const segments = new Map<string, string[]>()
  for (const id of members) {
    const segment = segmentOf(model, id, key)
    segments.set(segment, [...(segments.get(segment) ?? []), id])
  }
  if (segments.size < 2) return []
  if (segments.size > MOST_SEGMENTS)
    return notMoved(
      `"${key}" has ${segments.size} values there, and one move keeps ${MOST_SEGMENTS} segments ` +
        'apart at most; choose fewer networks, or another tag',
    )
  const known = new Set([...model.estate.expectations.values()].map((one) => JSON.stringify(one)))
  const taken = new Map<string, unknown>(model.estate.expectations)
  const named = (ids: readonly string[]): string[] => ids.map((id) => `networks/${id}`)
  return [...segments].flatMap(([segment, own]): Operation[] => {
    const others = [...segments].flatMap(([one, ids]) => (one === segment ? [] : ids))
    const value = { from: named(own), to: named(others), must: 'never-reach' }
    if (known.has(JSON.stringify(value))) return []
    const id = freeId(taken, `${idIn(segment || `no-${key}`)}-apart`)
    taken.set(id, value)
    return [{ op: 'add', path: pointer('expectations', id), value }]
  })
}

/** What of a tag's value can stand in an id. */
const idIn = (text: string): string => text.replace(/[^A-Za-z0-9._-]+/g, '-').slice(0, 100)

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
  const routes = rangesOfNetwork(model, to).map((range): Route => ({ to: range, via: { peering } }))
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
