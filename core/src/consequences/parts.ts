/**
 * What differs in a box of packets that take the same way in both states: the rules decide which of
 * them pass, before and after.
 */
import type { Flow, FlowBranch } from '../flows/flow'
import { passedGates } from '../flows/gates'
import type { Model } from '../model/model'
import { intersectSets, subtractSets, type PacketBox, type PacketSet } from '../packet/packet-set'
import type { Pair } from './ends'
import { differencesOf, fateOfBranches, NO_FATE, worksOf, type Fate } from './fate'

/** Packets that share their fates, of which one works at least. */
export interface Part {
  readonly box: PacketBox
  readonly before: Fate
  readonly after: Fate
}

/** Packets that work in one state by the same branches, and so share their fate. */
export interface Working {
  readonly packets: PacketSet
  readonly fate: Fate
}

/**
 * The packets of a box that differ, as parts that share none; null where rules cannot be said as
 * sets. Flows are those of a walk that deferred rules; null where the sender is not there. Costs,
 * for each gate of each branch, a comparison with the boxes it lets pass.
 */
export function passedParts(
  pair: Pair,
  was: Flow | null,
  is: Flow | null,
  box: PacketBox,
): readonly Part[] | null {
  const olds = workingIn(pair.before, was, box)
  const news = workingIn(pair.after, is, box)
  if (olds === null || news === null) return null
  const beside = (set: PacketSet, others: readonly Working[]): PacketSet =>
    others.reduce((rest, { packets }) => subtractSets(rest, packets), set)
  const parts = (packets: PacketSet, before: Fate, after: Fate): Part[] =>
    packets.map((one) => ({ box: one, before, after }))
  return [
    ...olds.flatMap(({ packets, fate }) => parts(beside(packets, news), fate, NO_FATE)),
    ...news.flatMap(({ packets, fate }) => parts(beside(packets, olds), NO_FATE, fate)),
    ...olds.flatMap((old) =>
      news.flatMap((now) =>
        differencesOf(old.fate, now.fate).length === 0
          ? []
          : parts(intersectSets(old.packets, now.packets), old.fate, now.fate),
      ),
    ),
  ]
}

/** The packets of a box that work in one state, by which of its branches let them pass. */
export function workingIn(
  model: Model,
  flow: Flow | null,
  box: PacketBox,
): readonly Working[] | null {
  if (flow === null || flow.branches.every((branch) => !worksOf(branch))) return []
  let regions: readonly Region[] = [{ packets: [box], branches: [] }]
  for (const branch of flow.branches) {
    const passed = worksOf(branch) ? passedGates(model, branch.gates, box) : []
    if (passed === null) return null
    regions = regions.flatMap((region) => parted(region, branch, passed))
  }
  return regions.flatMap(({ packets, branches }) => {
    const fate = fateOfBranches(model, branches)
    return fate.works === 'none' ? [] : [{ packets, fate }]
  })
}

/** Packets with what becomes of them on each branch so far: null where it is lost. */
interface Region {
  readonly packets: PacketSet
  readonly branches: readonly (FlowBranch | null)[]
}

/** A region by a further branch: what it lets pass, and the rest. */
function parted({ packets, branches }: Region, branch: FlowBranch, passed: PacketSet): Region[] {
  const both = passed.length === 0 ? [] : intersectSets(packets, passed)
  const rest = both.length === 0 ? packets : subtractSets(packets, passed)
  return [
    { packets: both, branches: [...branches, branch] },
    { packets: rest, branches: [...branches, null] },
  ].filter((region) => region.packets.length > 0)
}
