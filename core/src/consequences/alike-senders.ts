/**
 * Hosts that fare alike but for their address: in one subnet, of one kind for route choice, with
 * the same rules. One walk stands for all of them, so they are asked as one sender.
 */
import { rangeSet } from '../address/ranges'
import type { Model } from '../model/model'
import { applies } from '../rules/applies-to'
import type { Pair, PairedSender } from './ends'
import type { PairedKind } from './reached-kinds'
import type { Touched } from './touched'

/**
 * The senders of two states with those that fare alike as one, in their order. Costs a step for
 * each sender, and each estate rule at each.
 */
export function withAlikeAsOne(
  pair: Pair,
  touched: Touched,
  kindOf: ReadonlyMap<string, PairedKind>,
  senders: readonly PairedSender[],
): readonly PairedSender[] {
  const groups = new Map<string, PairedSender[]>()
  const numbers = new Map<PairedKind, number>()
  for (const sender of senders) {
    const kind = kindOf.get(sender.name.slice('interface:'.length))
    if (kind && !numbers.has(kind)) numbers.set(kind, numbers.size)
    const key = (kind && alikeKey(pair, touched, kind, sender)) ?? null
    const name = key === null ? sender.name : `${numbers.get(kind!)} ${key}`
    const known = groups.get(name)
    if (known) known.push(sender)
    else groups.set(name, [sender])
  }
  return [...groups.values()].map((members) =>
    members.length === 1
      ? members[0]!
      : { ...members[0]!, both: rangeSet(members.flatMap(({ both }) => both)), members },
  )
}

/** All that tells hosts of one kind apart, but for their address; null for one that stands alone. */
function alikeKey(
  { before, after }: Pair,
  touched: Touched,
  { ways }: PairedKind,
  { name, both, onlyBefore, onlyAfter }: PairedSender,
): string | null {
  if (ways.before.kind.hasPublicAddress || ways.after.kind.hasPublicAddress) return null
  if (onlyBefore.length + onlyAfter.length > 0) return null
  // Ways are those of a host's first address of a family.
  if (both.some(({ from, to }) => from !== to)) return null
  if (new Set(both.map(({ from }) => typeof from)).size !== both.length) return null
  const id = name.slice('interface:'.length)
  const texts = [before, after].map((model) => placeKey(model, id))
  if (texts.includes(null)) return null
  return [
    touched.hosts.has(id),
    touched.rules.has(id),
    ...both.map(({ from }) => typeof from),
    ...texts,
  ].join(' ')
}

/** What rules ask of a host besides its packets; null for one that is more than a host. */
function placeKey(model: Model, id: string): string | null {
  const index = model.index.interfaces.get(id)
  if (index === undefined || model.firewallAt.has(index) || model.endpointAt.has(index)) return null
  const { forwards, subnet, ruleSets, localRules, up } = model.interfaces[index]!
  if (forwards) return null
  const rules = model.estate.estateRules.map((rule) =>
    applies(model, rule, { subnet, interface: index }) ? 1 : 0,
  )
  return `${up} ${subnet} ${ruleSets.join()} ${localRules} ${rules.join('')}`
}
