import { parseAddress } from '../address/address'
import { prefixOf } from '../address/prefix'
import { rangesContain, rangeSetOf } from '../address/ranges'
import { subnetSeenBy, type Onlooker } from '../addresses/seen-as'
import type { HopMemo } from '../hops/hops'
import type { Model, SubnetModel } from '../model/model'
import type { Pair } from './ends'

/** A party that sees a subnet at other addresses than before. */
export interface SeenAsChange {
  readonly party: string
  readonly subnet: string
  /** Addresses, or `unpredictable`; empty where nothing of it arrives. */
  readonly before: readonly string[]
  readonly after: readonly string[]
  /** Whether the party's allowlist has all that it sees after; null where it keeps none. */
  readonly allowed: boolean | null
}

/**
 * Every party of the later state that sees a subnet at other addresses. `subnets` are the ids of
 * those whose ways differ; others are seen as before. Costs the ways of each to each party.
 */
export function seenAsChanges(
  { before, after }: Pair,
  subnets: ReadonlySet<string>,
  memo: { readonly before: HopMemo; readonly after: HopMemo },
): SeenAsChange[] {
  return [...after.index.parties.keys()].flatMap((id) => {
    const onlooker = { kind: 'party', id } as const
    const allowlist = after.estate.parties.get(id)?.allowlist
    return [...subnets].flatMap((subnet): SeenAsChange[] => {
      const was = before.index.parties.has(id) ? seen(before, subnet, onlooker, memo.before) : []
      const is = seen(after, subnet, onlooker, memo.after)
      if (was.join() === is.join()) return []
      const allowed = allowlist === undefined ? null : is.every((text) => isOnList(allowlist, text))
      return [{ party: id, subnet: `subnets/${subnet}`, before: was, after: is, allowed }]
    })
  })
}

/** Whether an address lies in one of some written prefixes. */
function isOnList(allowlist: readonly string[], text: string): boolean {
  const address = parseAddress(text)
  return address !== null && rangesContain(rangeSetOf(allowlist.map(prefixOf)), address)
}

function seen(model: Model, id: string, onlooker: Onlooker, memo: HopMemo): string[] {
  const subnet: SubnetModel | undefined = model.subnets[model.index.subnets.get(id) ?? -1]
  if (!subnet) return []
  return [
    ...new Set(subnetSeenBy(model, subnet, onlooker, memo).flatMap(({ addresses }) => addresses)),
  ].sort()
}
