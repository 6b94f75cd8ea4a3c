import {
  addressPlus,
  bitsOf,
  familyOf,
  formatAddress,
  nextAddress,
  previousAddress,
} from '../address/address'
import {
  containsPrefix,
  formatPrefix,
  lastAddress,
  prefixesOverlap,
  prefixFamily,
  prefixOf,
  type Prefix,
} from '../address/prefix'
import { prefixesOfRange, rangeOf, rangeSetOf, subtractRanges } from '../address/ranges'
import type { Model, NetworkModel } from '../model/model'

/** A subnet's range in a network's, with how much of it hosts have. */
export interface Carved {
  readonly prefix: string
  readonly subnet: string
  /** Addresses that interfaces, translators and frontends have there. */
  readonly taken: number
  /**
   * Addresses that hosts can have there; in text, since IPv6 ranges hold more than a number does.
   */
  readonly usable: string
}

export interface SpaceRange {
  readonly prefix: string
  readonly addresses: string
  /** The share that subnets have, from 0 to 1. */
  readonly carvedShare: number
  readonly carved: readonly Carved[]
  /** What no subnet has, as the fewest prefixes, the lowest first; no more than `MOST_FREE`. */
  readonly free: readonly string[]
  readonly moreFree: number
}

export interface Collision {
  readonly prefix: string
  readonly with: string
  /** The other network, site or planned range, as `section/id`. */
  readonly other: string
}

export interface NetworkSpace {
  readonly network: string
  readonly ranges: readonly SpaceRange[]
  readonly collisions: readonly Collision[]
}

const MOST_FREE = 64

/**
 * Each network's ranges: what subnets have of them, what is free, and what else has the same
 * addresses.
 */
export function spaceOf(model: Model): NetworkSpace[] {
  const taken = takenIn(model)
  const others = rangesElsewhere(model)
  return [...model.index.networks.values()].map((index): NetworkSpace => {
    const network = model.networks[index]!
    return {
      network: network.id,
      ranges: network.ranges.map((prefix) => spaceRange(model, network, prefix, taken)),
      collisions: network.ranges.flatMap((prefix) =>
        others
          .filter(
            ({ ref, prefix: other }) =>
              ref !== network.ref &&
              prefixFamily(other) === prefixFamily(prefix) &&
              prefixesOverlap(prefix, other),
          )
          .map(({ ref, prefix: other }) => ({
            prefix: formatPrefix(prefix),
            with: formatPrefix(other),
            other: ref,
          })),
      ),
    }
  })
}

function spaceRange(
  model: Model,
  network: NetworkModel,
  prefix: Prefix,
  taken: ReadonlyMap<number, number>,
): SpaceRange {
  const carved = network.subnets.flatMap((index) => {
    const subnet = model.subnets[index]!
    return subnet.ranges
      .filter(
        (range) => prefixFamily(range) === prefixFamily(prefix) && containsPrefix(prefix, range),
      )
      .map((range) => ({ range, subnet: subnet.id, taken: taken.get(index) ?? 0 }))
  })
  carved.sort((a, b) => (a.range.address < b.range.address ? -1 : 1))
  const free = subtractRanges(
    [rangeOf(prefix)],
    rangeSetOf(carved.map(({ range }) => range)),
  ).flatMap(prefixesOfRange)
  const share = carved.reduce((sum, { range }) => sum + 2 ** (prefix.length - range.length), 0)
  return {
    prefix: formatPrefix(prefix),
    addresses: countOf(prefix).toString(),
    carvedShare: share,
    carved: carved.map(({ range, ...rest }) => ({
      prefix: formatPrefix(range),
      ...rest,
      usable: usableOf(range).count.toString(),
    })),
    free: free.slice(0, MOST_FREE).map(formatPrefix),
    moreFree: Math.max(0, free.length - MOST_FREE),
  }
}

/** How many addresses hosts have, by the number of their subnet. */
function takenIn(model: Model): Map<number, number> {
  const out = new Map<number, number>()
  for (const index of model.index.interfaces.values()) {
    const { subnet, addresses } = model.interfaces[index]!
    out.set(
      subnet,
      (out.get(subnet) ?? 0) + addresses.filter((address) => familyOf(address) === 4).length,
    )
  }
  return out
}

const rangesElsewhere = (model: Model): { ref: string; prefix: Prefix }[] => [
  ...[...model.index.networks.values()].flatMap((index) =>
    model.networks[index]!.ranges.map((prefix) => ({ ref: model.networks[index]!.ref, prefix })),
  ),
  ...[...model.index.sites.keys()].flatMap((id) =>
    (model.estate.sites.get(id)?.ranges ?? []).map((text) => ({
      ref: `sites/${id}`,
      prefix: prefixOf(text),
    })),
  ),
]

const countOf = ({ address, length }: Prefix): bigint =>
  1n << BigInt(bitsOf(familyOf(address)) - length)

/** An IPv4 subnet keeps its first four addresses and its last to itself (design part 2). */
const KEPT_LOW = 4

/** The first and last address hosts can have in a subnet's range, and how many there are. */
export function usableOf(prefix: Prefix): {
  readonly first: string | null
  readonly last: string | null
  readonly count: bigint
} {
  const all = countOf(prefix)
  if (prefixFamily(prefix) === 6)
    return {
      first: formatAddress(prefix.address),
      last: formatAddress(lastAddress(prefix)),
      count: all,
    }
  const count = all - BigInt(KEPT_LOW + 1)
  if (count <= 0n) return { first: null, last: null, count: 0n }
  return {
    first: formatAddress(addressPlus(prefix.address, KEPT_LOW)),
    last: formatAddress(previousAddress(lastAddress(prefix))!),
    count,
  }
}

/** One of the equal parts of a range. */
export interface Part {
  readonly prefix: string
  readonly first: string | null
  readonly last: string | null
  readonly usable: string
}

/** More parts than this are not listed; they are counted. */
export const MOST_PARTS = 1_024

/**
 * Carves a range into parts of a length in bits, the lowest first. Throws a RangeError where the
 * length is shorter than the range's own, or too long for its family.
 */
export function carve(
  prefix: Prefix,
  length: number,
): { readonly count: bigint; readonly parts: readonly Part[] } {
  const bits = bitsOf(prefixFamily(prefix))
  if (!Number.isInteger(length) || length < prefix.length || length > bits) {
    throw new RangeError(
      `a /${prefix.length} is carved into parts of /${prefix.length} to /${bits}, not /${length}`,
    )
  }
  const parts: Part[] = []
  for (
    let at: Prefix | null = { address: prefix.address, length };
    at !== null && parts.length < MOST_PARTS;
  ) {
    const { first, last, count } = usableOf(at)
    parts.push({ prefix: formatPrefix(at), first, last, usable: count.toString() })
    const next = nextAddress(lastAddress(at))
    at = next !== null && next <= lastAddress(prefix) ? { address: next, length } : null
  }
  return { count: 1n << BigInt(length - prefix.length), parts }
}

/** The length of parts so that a range has at least so many. */
export const lengthForParts = (prefix: Prefix, parts: number): number =>
  prefix.length + Math.ceil(Math.log2(Math.max(1, parts)))
