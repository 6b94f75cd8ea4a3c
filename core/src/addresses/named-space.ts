import {
  compareAddresses,
  familyOf,
  nextAddress,
  previousAddress,
  type Address,
} from '../address/address'
import { prefixOf } from '../address/prefix'
import { PUBLIC_SPACE } from '../address/public'
import {
  cut,
  firstFrom,
  intersectRanges,
  rangeSet,
  rangeSetOf,
  rangeText,
  sameRanges,
  subtractRanges,
  type Range,
  type RangeSet,
} from '../address/ranges'
import { derived } from '../incremental/derived'
import type { Model } from '../model/model'
import { nobodysSpace } from '../walk/public-address'

/**
 * Who has a part of the address space: `internet`; `networks/ID` for the ranges of its subnets;
 * `sites/ID`, `services/ID`, `parties/ID` or `plannedRanges/ID`; of what is left, `public` for
 * the estate's own public addresses, `private` and `reserved` for space that nobody has.
 */
export type SpaceOwner = string

/** A space with its owner. Spaces of two owners can overlap, as the estate's ranges can. */
export interface NamedSpace {
  readonly owner: SpaceOwner
  readonly ranges: RangeSet
}

/** Private addresses: RFC 1918, RFC 6598 and the unique local ones of RFC 4193. */
const PRIVATE_SPACE = rangeSetOf(
  ['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16', '100.64.0.0/10', 'fc00::/7'].map(prefixOf),
)
const WHOLE_SPACE = rangeSetOf(['0.0.0.0/0', '::/0'].map(prefixOf))

/**
 * The whole address space by owner, in the order in which it is told: the internet first, nobody
 * last. Every address is in one space at least. Costs a sort of all ranges; cached with the model.
 */
export const namedSpaces = derived(
  (model: Model): readonly NamedSpace[] => {
    const { sites, services, parties, plannedRanges } = model.estate
    const written = (
      section: string,
      objects: ReadonlyMap<string, { readonly ranges?: readonly string[] }>,
    ): NamedSpace[] =>
      [...objects].map(([id, { ranges = [] }]) => ({
        owner: `${section}/${id}`,
        ranges: rangeSetOf(ranges.map(prefixOf)),
      }))
    const owned = [
      { owner: 'internet', ranges: nobodysSpace(model) },
      ...written('services', services),
      ...written('sites', sites),
      ...written('parties', parties),
      ...model.networks
        .filter(({ id }) => model.index.networks.has(id))
        .map(({ ref, subnets }) => ({
          owner: ref,
          ranges: rangeSetOf(subnets.flatMap((index) => model.subnets[index]!.allRanges)),
        })),
    ]
    const rest = subtractRanges(WHOLE_SPACE, union(owned))
    const planned = written('plannedRanges', plannedRanges).map(({ owner, ranges }) => ({
      owner,
      ranges: intersectRanges(ranges, rest),
    }))
    const nobodys = subtractRanges(rest, union(planned))
    const others = subtractRanges(nobodys, PRIVATE_SPACE)
    return [
      ...owned,
      ...planned,
      { owner: 'public', ranges: intersectRanges(others, PUBLIC_SPACE) },
      { owner: 'private', ranges: intersectRanges(nobodys, PRIVATE_SPACE) },
      { owner: 'reserved', ranges: subtractRanges(others, PUBLIC_SPACE) },
    ].filter(({ ranges }) => ranges.length > 0)
  },
  { same: sameSpaces },
)

/** The same spaces by their owners. */
const spacesByOwner = derived(
  (model: Model): ReadonlyMap<SpaceOwner, RangeSet> =>
    new Map(namedSpaces(model).map((one) => [one.owner, one.ranges])),
)

/** The space that nobody has: private and reserved addresses of no network, site or plan. */
export const unownedSpace = derived(
  (model: Model): RangeSet => union(namedSpaces(model).filter(({ owner }) => NOBODYS.has(owner))),
  { same: sameRanges },
)

/** The space that somebody has. */
export const ownedSpace = derived(
  (model: Model): RangeSet => subtractRanges(WHOLE_SPACE, unownedSpace(model)),
  { same: sameRanges },
)

const union = (spaces: readonly NamedSpace[]): RangeSet =>
  rangeSet(spaces.flatMap(({ ranges }) => ranges))

function sameSpaces(a: readonly NamedSpace[], b: readonly NamedSpace[]): boolean {
  return (
    a.length === b.length &&
    a.every(({ owner, ranges }, at) => owner === b[at]!.owner && sameRanges(ranges, b[at]!.ranges))
  )
}

/** A part of the address space, and its owners: places in `namedSpaces`. */
interface Piece extends Range {
  readonly owners: readonly number[]
}

/**
 * The same spaces as one list of pieces in the order of addresses, none of which overlap, so that
 * the owners of a range are found by halving. A sweep over the ends of all ranges: costs a sort of
 * them; cached with the model.
 */
const piecesOf = derived((model: Model): readonly Piece[] => {
  const ends = namedSpaces(model).flatMap(({ ranges }, owner) =>
    ranges.flatMap(({ from, to }) => [
      { at: from, owner, opens: true },
      { at: to, owner, opens: false },
    ]),
  )
  // At one address, what opens comes first: a range ends behind its last address.
  ends.sort((a, b) => compareAddresses(a.at, b.at) || Number(b.opens) - Number(a.opens))
  const out: Piece[] = []
  const open = new Set<number>()
  let from: Address | null = null
  const close = (to: Address): void => {
    if (from === null || open.size === 0 || compareAddresses(from, to) > 0) return
    out.push({ from, to, owners: [...open].sort((a, b) => a - b) })
  }
  for (const { at, owner, opens } of ends) {
    if (opens) {
      const before = previousAddress(at)
      if (before !== null) close(before)
      open.add(owner)
      from = at
    } else {
      close(at)
      open.delete(owner)
      from = nextAddress(at)
    }
  }
  return out
})

/**
 * What a set of destinations holds of each owner's space, in the order of `namedSpaces`. Costs a
 * look-up for each range, and a step for each piece of it.
 */
export function byOwner(model: Model, ranges: RangeSet): NamedSpace[] {
  const pieces = piecesOf(model)
  const parts = new Map<number, Range[]>()
  for (const range of ranges) {
    for (let at = firstFrom(pieces, range.from); at < pieces.length; at++) {
      const piece = pieces[at]!
      if (compareAddresses(piece.from, range.to) > 0) break
      const { from, to } = cut(piece, range)
      for (const owner of piece.owners) {
        const own = parts.get(owner)
        if (own) own.push({ from, to })
        else parts.set(owner, [{ from, to }])
      }
    }
  }
  const spaces = namedSpaces(model)
  return [...parts]
    .sort(([a], [b]) => a - b)
    .map(([at, own]) => ({ owner: spaces[at]!.owner, ranges: rangeSet(own) }))
}

/** What the space of an owner that is no object is called. */
const CALLED: Readonly<Record<string, string>> = {
  internet: 'the internet',
  public: 'the estate’s public addresses',
  private: 'private space nobody has',
  reserved: 'reserved space',
}

/** An owner in words: the internet, an object by its id, or whose space nobody has. */
export const ownerText = (owner: SpaceOwner): string =>
  CALLED[owner] ?? owner.slice(owner.indexOf('/') + 1)

/**
 * Destinations in words, as a list: an owner's whole space by its name, a part of it by its
 * ranges, and what nobody has in one phrase. Example: `the internet`, `10.50.4.0/24`, `private
 * space nobody has`. With `most` ranges of one owner at most.
 */
export function spaceTexts(model: Model, ranges: RangeSet, most = 3): string[] {
  const families = new Set(ranges.map(({ from }) => familyOf(from)))
  return byOwner(model, rangeSet(ranges)).flatMap(({ owner, ranges: own }) => {
    if (NOBODYS.has(owner)) return [ownerText(owner)]
    const whole = (spacesByOwner(model).get(owner) ?? []).filter(({ from }) =>
      families.has(familyOf(from)),
    )
    if (sameRanges(whole, own)) return [ownerText(owner)]
    const texts = own.map(rangeText)
    if (texts.length <= most) return texts
    const missing = subtractRanges(whole, own)
    return missing.length <= most && owner === 'internet'
      ? [`the internet but for ${missing.map(rangeText).join(', ')}`]
      : [`${texts.slice(0, most).join(', ')} and more of ${ownerText(owner)}`]
  })
}

const NOBODYS: ReadonlySet<SpaceOwner> = new Set(['private', 'reserved'])
