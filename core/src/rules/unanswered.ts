/**
 * Requests that a stateless rule set lets pass in one direction while it stops their answers in the
 * other, for one pair of addresses.
 *
 * Lists of hundreds of rules differ in their ports and far sides; to one pair of addresses only a
 * few rules apply, and to most pairs the same few. So the far addresses are cut at the ends of all
 * far sides into spans that no rule tells apart, and the near ones alike; with the addresses fixed,
 * what is left are two fields, the ports. Equivalence classes of the address space are the usual
 * way of the literature on packet filters.
 *
 * Example: a list lets HTTPS out to anybody, and in what comes to ports from 32768 on. To an
 * address that no other rule speaks of, requests to port 443 from ports 1024 to 32767 are not
 * answered.
 */
import { type Address, type Family, highestOf, lowestOf, nextAddress } from '../address/address'
import { rangesContain, type RangeSet } from '../address/ranges'
import { TCP } from '../packet/packet'
import {
  allPackets,
  disjoint,
  joinBoxes,
  meetBoxes,
  subtractSets,
  type PacketBox,
  boxWith,
} from '../packet/packet-set'
import { placeOfProtocol } from '../packet/protocols'
import { passedBySet } from './boxes'
import type { Condition, Direction } from './condition'
import type { SetModel } from './rule-book'

/** The two addresses of a request as a rule set at a host or a subnet's edge sees them. */
export interface Pair {
  /** The address on the side of the rules. */
  readonly near: Address
  readonly far: Address
}

const TCP_PLACE = placeOfProtocol(TCP)
const OTHER: { readonly [D in Direction]: Direction } = { in: 'out', out: 'in' }

/**
 * The TCP requests between two addresses, from the ports that clients take (RFC 6056), that a set
 * lets pass and whose answers it stops. `direction` is that of the request. Costs two binary
 * searches for a pair whose like was asked before, else what the rules of this pair cost.
 */
export function unansweredOf(set: SetModel, direction: Direction, pair: Pair): PacketBox[] {
  const family: Family = typeof pair.near === 'number' ? 4 : 6
  const spans = spansOf(set, family)
  const [near, far] = [spans.near.at(pair.near), spans.far.at(pair.far)]
  const boxes = knownOf(set, `${direction} ${family} ${near} ${far}`, () =>
    unansweredBetween(set, direction, pair),
  )
  return boxes.map((box) => boxWith(box, addressesOf(direction, pair)))
}

/** Whether a set stops some answer to a TCP request over a family that it lets pass. */
export function stopsAnAnswer(set: SetModel, family: Family): boolean {
  const { near, far } = spansOf(set, family)
  return near.firsts.some((own) =>
    far.firsts.some((other) =>
      (['in', 'out'] as const).some(
        (direction) => unansweredOf(set, direction, { near: own, far: other }).length > 0,
      ),
    ),
  )
}

const results = new WeakMap<SetModel, Map<string, readonly PacketBox[]>>()

function knownOf(
  set: SetModel,
  key: string,
  make: () => readonly PacketBox[],
): readonly PacketBox[] {
  let known = results.get(set)
  if (!known) results.set(set, (known = new Map()))
  let found = known.get(key)
  if (!found) known.set(key, (found = make()))
  return found
}

function unansweredBetween(set: SetModel, direction: Direction, pair: Pair): readonly PacketBox[] {
  const all = allPackets(typeof pair.near === 'number' ? 4 : 6)
  const tcp = { from: TCP_PLACE, to: TCP_PLACE }
  const request = boxWith(all, {
    ...addressesOf(direction, pair),
    protocol: tcp,
    srcPort: { from: 1024, to: 65535 },
  })
  const passed = joinBoxes(disjoint(passedBySet(set, direction, [request])))
  if (passed.length === 0) return []
  const answer = turned(request)
  const stopped = subtractSets([answer], passedBySet(set, OTHER[direction], [answer]))
  return stopped.flatMap((box) => passed.flatMap((one) => meetBoxes(one, turned(box)) ?? []))
}

function addressesOf(direction: Direction, { near, far }: Pair): Pick<PacketBox, 'src' | 'dst'> {
  const [own, other] = [
    { from: near, to: near },
    { from: far, to: far },
  ]
  return direction === 'out' ? { src: own, dst: other } : { src: other, dst: own }
}

const turned = (box: PacketBox): PacketBox => ({
  dst: box.src,
  src: box.dst,
  protocol: box.protocol,
  dstPort: box.srcPort,
  srcPort: box.dstPort,
})

/** The address space as spans in which the same rules hold for every address. */
interface Spans {
  /** The first address of one span of each kind. */
  readonly firsts: readonly Address[]
  /** The number of the kind of span that an address lies in. */
  readonly at: (address: Address) => number
}

const spansKnown = {
  4: new WeakMap<SetModel, SpansOfSet>(),
  6: new WeakMap<SetModel, SpansOfSet>(),
}

interface SpansOfSet {
  readonly near: Spans
  readonly far: Spans
}

function spansOf(set: SetModel, family: Family): SpansOfSet {
  let found = spansKnown[family].get(set)
  if (!found) {
    found = {
      near: cutAt(set, family, (rule) => rule.local),
      far: cutAt(set, family, (rule) => rule.peers()),
    }
    spansKnown[family].set(set, found)
  }
  return found
}

/** Costs, for each end of a range in the set, a search in the ranges of each rule. */
function cutAt(set: SetModel, family: Family, of: (rule: Condition) => RangeSet | null): Spans {
  const sides = set.rules.map(of)
  const starts = new Set<Address>([lowestOf(family)])
  for (const { from, to } of sides.flatMap((side) => side ?? [])) {
    if (typeof from !== typeof lowestOf(family)) continue
    starts.add(from)
    if (to !== highestOf(family)) starts.add(nextAddress(to)!)
  }
  const sorted = [...starts].sort((a, b) => (a < b ? -1 : 1))
  const kinds = new Map<string, number>()
  const firsts: Address[] = []
  const kindOf = sorted.map((start) => {
    const matched = sides.flatMap((side, at) =>
      side !== null && rangesContain(side, start) ? [at] : [],
    )
    const key = matched.join()
    const known = kinds.get(key)
    if (known !== undefined) return known
    firsts.push(start)
    kinds.set(key, kinds.size)
    return kinds.size - 1
  })
  return { firsts, at: (address) => kindOf[placeOf(sorted, address)]! }
}

/** The place of the last of some ascending starts that is not above an address. */
function placeOf(starts: readonly Address[], address: Address): number {
  let [low, high] = [0, starts.length - 1]
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (starts[middle]! <= address) low = middle
    else high = middle - 1
  }
  return low
}
