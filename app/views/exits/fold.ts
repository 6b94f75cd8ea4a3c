import type { MarkedRow } from '@salt-trail/core'
import type { Outline, SubnetOutline } from '~/api/answers'
import { COLUMNS, GRAVITY, type Direction } from './cells'

/** What is alike, and whether all of it is shown or the first one for all. */
interface Fold {
  /** The first one of those that are alike, by which they are opened; null where it is alone. */
  readonly fold: string | null
}

/** Subnets of which one stands for all: the first. */
export interface Alike extends Fold {
  readonly subnets: readonly SubnetOutline[]
}

/** Networks of which one stands for all: the first. */
export interface AlikeNetworks extends Fold {
  readonly networks: readonly Outline['networks'][number][]
  /** What tells them from the many they are otherwise like. */
  readonly unlike: readonly string[]
}

/** What rows look like, whoever they are of: equal for rows that show the same. */
export type Face = (subnet: SubnetOutline) => string

/** What of the rows is not folded. */
export interface Unfolded {
  /** The first ones of those alike that are opened. */
  readonly opened: ReadonlySet<string>
  /** A network, or a subnet, that stands alone whatever it is like. */
  readonly apart: ReadonlySet<string>
}

/** The faces of rows: the kinds of their ways, and the gravest mark, column by column. */
export function facesOf(rowOf: ReadonlyMap<string, MarkedRow>, direction: Direction): Face {
  return ({ id }) => {
    const row = rowOf.get(id)
    if (!row) return ''
    const found = direction === 'entering' ? row.entering : row.findings
    return COLUMNS.map(({ key }) => {
      const kinds = new Set(row[key].map(({ kind, cause }) => cause?.code ?? kind))
      const families = new Set(found[key]?.map(({ family }) => family))
      return `${[...kinds].sort().join()} ${GRAVITY.find((one) => families.has(one)) ?? ''}`
    }).join('|')
  }
}

/**
 * Networks that are alike, and whose rows show the same, together: each group where its first one
 * stands.
 */
export function foldNetworks(
  { networks, unlike }: Outline,
  subnetsOf: (network: string) => readonly SubnetOutline[],
  face: Face,
  unfolded: Unfolded,
): AlikeNetworks[] {
  const groups = groupsOf(networks, (network) => {
    const rows = subnetsOf(network.id)
    const isAlone = unfolded.apart.has(network.id) || network.like < 0 || rows.length === 0
    return isAlone ? network.id : `${network.like} ${rows.map(face).join('/')}`
  })
  return splitOpened(groups, unfolded).map(({ members, fold }) => ({
    networks: members,
    fold,
    unlike: unlike.networks[members[0]!.like] ?? [],
  }))
}

/** What has one key together, each group where its first one stands. */
function groupsOf<T>(list: readonly T[], keyOf: (one: T) => string): (readonly T[])[] {
  const groups = new Map<string, T[]>()
  for (const one of list) {
    const key = keyOf(one)
    const known = groups.get(key)
    if (known) known.push(one)
    else groups.set(key, [one])
  }
  return [...groups.values()]
}

/** Those that are alike together, and one by one where they are opened. */
function splitOpened<T extends { readonly id: string }>(
  groups: readonly (readonly T[])[],
  { opened }: Unfolded,
): { readonly members: readonly T[]; readonly fold: string | null }[] {
  return groups.flatMap((members) => {
    const fold = members.length > 1 ? members[0]!.id : null
    if (fold === null || !opened.has(fold)) return [{ members, fold }]
    return members.map((one) => ({ members: [one], fold }))
  })
}

/** Rows of one group are only folded where there are more than these. */
const FEW_ROWS = 12

/**
 * Subnets that are alike, and whose rows show the same, together. Those of different networks are
 * alike where their networks are, and they have the same place in them.
 */
export function foldSubnets(
  subnets: readonly SubnetOutline[],
  likeIn: (subnet: SubnetOutline) => string,
  face: Face,
  unfolded: Unfolded,
): Alike[] {
  if (subnets.length <= FEW_ROWS) return subnets.map((one) => ({ subnets: [one], fold: null }))
  const groups = groupsOf(subnets, (subnet) => {
    const like = likeIn(subnet)
    const isAlone = like === '' || unfolded.apart.has(subnet.id)
    return isAlone ? subnet.id : `${like} ${face(subnet)}`
  })
  return splitOpened(groups, unfolded).map(({ members, fold }) => ({
    subnets: members,
    fold,
  }))
}

/** What a subnet is like, in groups of one network and in others. */
export function likenessIn(
  { networks, subnets }: Outline,
  byNetwork: boolean,
): (subnet: SubnetOutline) => string {
  if (byNetwork) return ({ like }) => (like < 0 ? '' : String(like))
  const likeOf = new Map(networks.map(({ id, like }) => [id, like]))
  const placeOf = new Map<string, number>()
  const counts = new Map<string, number>()
  for (const { id, network } of subnets) {
    const place = counts.get(network) ?? 0
    counts.set(network, place + 1)
    placeOf.set(id, place)
  }
  return ({ id, network }) => {
    const like = likeOf.get(network) ?? -1
    return like < 0 ? '' : `${like} ${placeOf.get(id)}`
  }
}
