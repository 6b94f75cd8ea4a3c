import { sameRanges, type RangeSet } from '../address/ranges'
import { canonical } from '../compare/compare'
import type { EstateRule, Peer, Rule } from '../format/estate'
import { rangesOfPeer } from '../rules/rule-book'
import { cached } from '../incremental/cells'
import type { Model } from '../model/model'
import type { Pair } from './ends'

/** The rule sets that differ, as written or by whom their peers stand for, by id. */
export function changedRuleSets(pair: Pair): ReadonlySet<string> {
  const { before, after } = pair
  const moved = movedPeers(pair)
  const out = new Set<string>()
  const [olds, news] = [before.estate.ruleSets, after.estate.ruleSets]
  for (const [id, set] of news) {
    const old = olds.get(id)
    if (old !== set && canonical(old) !== canonical(set)) out.add(id)
    else if ((set.rules ?? []).some((rule) => moved(rule))) out.add(id)
  }
  for (const id of olds.keys()) if (!news.has(id)) out.add(id)
  return out
}

/** The estate rules of each state that the other does not have alike. */
export function changedEstateRules(pair: Pair): {
  readonly before: readonly EstateRule[]
  readonly after: readonly EstateRule[]
} {
  const { before, after } = pair
  const moved = movedPeers(pair)
  const groups = before.estate.groups !== after.estate.groups
  const beside = (rules: readonly EstateRule[], others: readonly EstateRule[]): EstateRule[] => {
    const known = new Set(others.map(canonical))
    return rules.filter(
      (rule) =>
        !known.has(canonical(rule)) || moved(rule) || (groups && Array.isArray(rule.appliesTo)),
    )
  }
  return {
    before: beside(before.estate.estateRules, after.estate.estateRules),
    after: beside(after.estate.estateRules, before.estate.estateRules),
  }
}

/** Tells whether a peer of a rule stands for other addresses after the change than before. */
function movedPeers({ before, after }: Pair): (rule: Rule | EstateRule) => boolean {
  const known = new Map<string, boolean>()
  const isMoved = (peer: Peer): boolean => {
    if (typeof peer === 'string') return false
    const key = canonical(peer)
    let moved = known.get(key)
    if (moved === undefined) {
      const [a, b] = [rangesOfPeer(before, peer), rangesOfPeer(after, peer)]
      known.set(key, (moved = !sameSets(a, b)))
    }
    return moved
  }
  return (rule) => rule.peers?.some(isMoved) ?? false
}

const sameSets = (a: RangeSet | null, b: RangeSet | null): boolean =>
  a === null || b === null ? a === b : sameRanges(a, b)

/** What may differ between two states that lead every packet the same way. */
const BESIDE_THE_WAY: ReadonlySet<string> = new Set([
  'name',
  'title',
  'note',
  'ruleSets',
  'estateRules',
  'expectations',
])

const alike = new WeakMap<Model, WeakMap<Model, boolean>>()

/**
 * Whether two states differ in nothing but what packets are asked on their way. Rule sets that came
 * or went are another way, since objects name them by number.
 */
export function leadAlike({ before, after }: Pair): boolean {
  const known = cached(alike, before, () => new WeakMap<Model, boolean>())
  return cached(known, after, () => {
    const [one, other] = [before.estate, after.estate]
    return (
      before.index.ruleSets === after.index.ruleSets &&
      (Object.keys(one) as (keyof typeof one)[]).every(
        (section) => BESIDE_THE_WAY.has(section) || one[section] === other[section],
      )
    )
  })
}
