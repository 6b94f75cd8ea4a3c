/**
 * The ways of a subnet's packets: what becomes of them by destination, without the routes that
 * decide it.
 */
import { familyOf, nextAddress, type Address, type Family } from '../address/address'
import { firstFrom, type Range } from '../address/ranges'
import { lazy } from '../incremental/cells'
import type { Model, SubnetModel } from '../model/model'
import { allHops, hopMemo, hopsOf, type HopMemo, type HopTable } from './hops'
import { hostKinds, type HostKind } from './kinds'
import type { Outcome } from './outcome'

/** Destinations that share one outcome. */
export interface Way extends Range {
  readonly outcome: Outcome
}

/** The ways of one kind of host in a subnet, for all destinations in ascending order. */
export interface KindWays {
  readonly kind: HostKind
  /** The hosts, by id; none for unoccupied addresses. */
  readonly hosts: readonly string[]
  readonly 4: readonly Way[]
  readonly 6: readonly Way[]
}

/** The ways of each subnet of one model, by its subnets. */
export type Ways = (subnet: SubnetModel) => readonly KindWays[]

/** The ways of a model's subnets, each found when it is first asked for. */
export function waysOf(model: Model, memo: HopMemo = hopMemo()): Ways {
  const known = new Map<number, readonly KindWays[]>()
  return (subnet) => {
    let ways = known.get(subnet.index)
    if (!ways) known.set(subnet.index, (ways = waysOfSubnet(model, subnet, memo)))
    return ways
  }
}

/**
 * The ways of one subnet, each family found when it is first asked for. Costs its next hops, with
 * those beyond transits.
 */
export function waysOfSubnet(model: Model, subnet: SubnetModel, memo: HopMemo): KindWays[] {
  const tables = lazy(() => hopsOf(model, subnet, memo))
  return hostKinds(model, subnet).map((kind, at): KindWays => {
    const own = {
      4: lazy(() => outcomesOf(model, subnet, tables()[at]!, 4, memo)),
      6: lazy(() => outcomesOf(model, subnet, tables()[at]!, 6, memo)),
    }
    return {
      kind,
      hosts: kind.interfaces.map((index) => model.interfaces[index]!.id),
      get 4() {
        return own[4]()
      },
      get 6() {
        return own[6]()
      },
    }
  })
}

/** The fewest spans of destinations with one outcome each. */
function outcomesOf(
  model: Model,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  memo: HopMemo,
): readonly Way[] {
  const out: Way[] = []
  for (const { from, to, hop } of allHops(model, subnet, table, family, memo)) {
    const last = out.at(-1)
    if (last && sameOutcome(last.outcome, hop) && nextAddress(last.to) === from)
      out[out.length - 1] = { ...last, to }
    else out.push({ from, to, outcome: hop })
  }
  return out
}

/** What becomes of packets of a kind of host to an address; null where it has none of its family. */
export function outcomeTo(ways: KindWays, address: Address): Outcome | null {
  const list = ways[familyOf(address)]
  return list[firstFrom(list, address)]?.outcome ?? null
}

const texts = new WeakMap<Outcome, string>()

/** All that an outcome says of packets, as text. */
export function outcomeText(outcome: Outcome): string {
  let text = texts.get(outcome)
  if (text === undefined) {
    const { ways, leavesBy, seenAs, cause } = outcome
    text = `${ways.join(';')} ${leavesBy} ${seenAs.join()} ${cause?.code} ${cause?.object}`
    texts.set(outcome, text)
  }
  return text
}

/** Whether two outcomes say the same of packets. */
export const sameOutcome = (a: Outcome, b: Outcome): boolean =>
  a === b || outcomeText(a) === outcomeText(b)
