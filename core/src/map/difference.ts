import type { EstateGraph, MapEdge, MapNode, MapSubnet } from './node'

/** What becomes of a mark, a subnet or a join from one state to the next. */
export type MapChange = 'added' | 'removed' | 'altered'

/** Two states of an estate on one map. */
export interface GraphDifference {
  /** What either state has; what both have as the later one says it. */
  readonly graph: EstateGraph
  /** By the reference of a mark or a subnet, and by the key of a join; nothing for what stays. */
  readonly changes: ReadonlyMap<string, MapChange>
}

/** By which a join is known. */
export const joinKey = ({ from, to, by }: MapEdge): string => `${from} ${to} ${by ?? ''}`

/**
 * Both states on one map, so that what goes can be seen beside what comes: what only the earlier
 * one has follows what stands before it there. Linear in marks, subnets and joins.
 */
export function graphBetween(before: EstateGraph, after: EstateGraph): GraphDifference {
  const changes = new Map<string, MapChange>()
  const nodes = united(before.nodes, after.nodes, ({ ref }) => ref, changes).map(
    ([was, now]): MapNode => {
      const node = (now ?? was)!
      const subnets =
        was?.subnets || now?.subnets
          ? subnetsOf(was?.subnets ?? [], now?.subnets ?? [], changes)
          : null
      // What stands in a mark is told by the mark, its subnets by themselves.
      if (was && now && contentOf(was) !== contentOf(now)) changes.set(node.ref, 'altered')
      return { ...node, subnets }
    },
  )
  const edges = united(before.edges, after.edges, joinKey, changes).map(
    ([was, now]) => (now ?? was)!,
  )
  return { graph: { nodes, edges, folds: after.folds || before.folds }, changes }
}

function subnetsOf(
  before: readonly MapSubnet[],
  after: readonly MapSubnet[],
  changes: Map<string, MapChange>,
): MapSubnet[] {
  return united(before, after, ({ ref }) => ref, changes).map(([was, now]) => {
    const subnet = (now ?? was)!
    if (was && now && JSON.stringify(was) !== JSON.stringify(now))
      changes.set(subnet.ref, 'altered')
    return subnet
  })
}

const contentOf = ({ name, about, up, stands }: MapNode): string =>
  JSON.stringify([name, about, up, stands])

type Pair<T> = readonly [was: T | undefined, now: T | undefined]

/**
 * What either list has, each with what it is in both: in the order of the later one, and what it
 * lacks after what precedes it in the earlier one. What is in one alone is noted.
 */
function united<T>(
  before: readonly T[],
  after: readonly T[],
  keyOf: (one: T) => string,
  changes: Map<string, MapChange>,
): Pair<T>[] {
  const now = new Map(after.map((one) => [keyOf(one), one]))
  const was = new Map(before.map((one) => [keyOf(one), one]))
  const gone = new Map<string | null, T[]>()
  let last: string | null = null
  for (const one of before) {
    const key = keyOf(one)
    if (now.has(key)) last = key
    else {
      changes.set(key, 'removed')
      gone.set(last, [...(gone.get(last) ?? []), one])
    }
  }
  const goneAfter = (key: string | null): Pair<T>[] =>
    (gone.get(key) ?? []).map((one) => [one, undefined])
  const out: Pair<T>[] = goneAfter(null)
  for (const [key, one] of now) {
    if (!was.has(key)) changes.set(key, 'added')
    out.push([was.get(key), one], ...goneAfter(key))
  }
  return out
}
