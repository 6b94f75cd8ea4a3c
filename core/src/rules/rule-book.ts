import { cached, lazy, currentObserver } from '../incremental/cells'
import type { Address } from '../address/address'
import { hostPrefix, prefixOf } from '../address/prefix'
import { rangeSet, rangeSetOf, type Range, type RangeSet } from '../address/ranges'
import type { EstateRule, Peer, Rule, RuleSet } from '../format/estate'
import { derived, derivedAndCompared, sameItems, sameRanges } from '../model/derived'
import type { Model } from '../model/model'
import { sameList } from '../model/sections'
import { destinationPrefixes } from '../model/routes'
import { protocolNumber } from '../packet/packet'
import { hasTag, applies } from './applies-to'
import { type Condition, portSpans } from './condition'
import type { Place } from './place'

export interface SetRule extends Condition {
  /** Its place in the set, as written. */
  readonly entry: number
  readonly order: number | null
  readonly allow: boolean
}

export interface SetModel {
  readonly ref: string
  readonly stateful: boolean
  readonly ordered: boolean
  /** In the order in which they are asked. */
  readonly rules: readonly SetRule[]
  readonly otherwise: { readonly in: boolean; readonly out: boolean }
}

export interface EstateRuleModel extends Condition {
  readonly ref: string
  readonly order: number
  readonly action: 'allow' | 'deny' | 'defer'
  readonly appliesTo: (place: Place) => boolean
}

/** All rules of an estate, each set compiled when it is first asked. */
export interface RuleBook {
  readonly set: (index: number) => SetModel
  /** The same of a set as `set` says, without compiling it. */
  readonly isStateful: (index: number) => boolean
  readonly estateRules: () => readonly EstateRuleModel[]
  readonly members: (ruleSet: string) => RangeSet
}

/** The addresses of all interfaces that carry a rule set, in whatever network. */
export const memberRanges = (model: Model, ruleSet: string): RangeSet =>
  ruleBook(model).members(ruleSet)

const books = new WeakMap<Model, RuleBook>()

/** The rules of a model, compiled on demand and cached with it. */
export function ruleBook(model: Model): RuleBook {
  let book = books.get(model)
  if (!book) {
    book = makeBook(model)
    books.set(model, book)
  }
  return book
}

const carriers = new WeakMap<Model['interfaces'], ReadonlyMap<number, readonly Address[]>>()

/** The addresses of the interfaces that carry each rule set. Cached until an interface changes. */
const carriersOf = (model: Model): ReadonlyMap<number, readonly Address[]> =>
  cached(carriers, model.interfaces, () => {
    const made = new Map<number, Address[]>()
    for (const one of model.interfaces) {
      if (!model.index.interfaces.has(one.id)) continue
      for (const set of one.ruleSets) {
        const list = made.get(set)
        if (list) list.push(...one.addresses)
        else made.set(set, [...one.addresses])
      }
    }
    return made
  })

/**
 * Compiled sets with the inputs they were made from. A model with the same inputs takes them over.
 */
const compiledSets = new WeakMap<
  RuleSet,
  { readonly set: SetModel; readonly madeFrom: readonly unknown[] }
>()

const isStateful = (set: RuleSet): boolean => set.stateful ?? true

function makeBook(model: Model): RuleBook {
  const { estate } = model
  const always = (): readonly unknown[] => [
    model.interfaces,
    model.internetSpace,
    model.index.ruleSets,
    estate.prefixLists,
    estate.services,
  ]
  const asksTags = (set: RuleSet): boolean =>
    set.rules?.some((rule) =>
      rule.peers?.some((peer) => typeof peer === 'object' && 'tag' in peer),
    ) ?? false
  const ids = (): readonly string[] =>
    derivedAndCompared(model, 'ids of rule sets', () => [...estate.ruleSets.keys()], sameItems)
  const sets = new Map<number, SetModel>()

  const memo = (key: string, make: () => RangeSet): RangeSet =>
    derivedAndCompared(model, `members of ${key}`, make, sameRanges)
  const addressesWhere = (test: (index: number) => boolean): RangeSet =>
    rangeSetOf(
      model.interfaces
        .filter((one) => model.index.interfaces.has(one.id) && test(one.index))
        .flatMap((one) => one.addresses.map(hostPrefix)),
    )

  const membersOf = (ruleSet: string): RangeSet => {
    const set = model.index.ruleSets.get(ruleSet) ?? -1
    return memo(`set ${ruleSet}`, () =>
      rangeSetOf((carriersOf(model).get(set) ?? []).map(hostPrefix)),
    )
  }
  const peerRanges = (peer: Peer): RangeSet | null => {
    if (peer === 'any') return null
    if (peer === 'internet') return model.internetSpace
    if (typeof peer === 'string') return rangeSetOf([prefixOf(peer)])
    if ('prefixList' in peer || 'service' in peer)
      return rangeSetOf(destinationPrefixes(model.estate, peer))
    if ('ruleSet' in peer) return membersOf(peer.ruleSet)
    return memo(`tag ${peer.tag}`, () =>
      addressesWhere((i) =>
        hasTag(model, { subnet: model.interfaces[i]!.subnet, interface: i }, peer.tag),
      ),
    )
  }
  const peersOf = (peers: readonly Peer[] | undefined): RangeSet | null => {
    if (peers === undefined) return null
    const ranges: Range[] = []
    for (const peer of peers) {
      const set = peerRanges(peer)
      if (set === null) return null
      ranges.push(...set)
    }
    return rangeSet(ranges)
  }
  const condition = (rule: Rule | EstateRule): Condition => ({
    direction: rule.direction,
    protocol:
      rule.protocol === undefined || rule.protocol === 'any' ? null : protocolNumber(rule.protocol),
    ports: portSpans(rule.ports),
    sourcePorts: portSpans(rule.sourcePorts),
    peers: lazy(() => peersOf(rule.peers)),
    local: rule.local === undefined ? null : rangeSetOf(rule.local.map(prefixOf)),
  })

  return {
    members: membersOf,
    set: (index) => cached(sets, index, () => compiledSet(index)),
    isStateful: (index) => isStateful(estate.ruleSets.get(ids()[index]!)!),
    estateRules: () =>
      derived(model, 'rules over the estate', () =>
        model.estate.estateRules
          .filter((rule) => (rule.state ?? 'up') === 'up')
          .map((rule): EstateRuleModel => ({
            ...condition(rule),
            ref: `estateRules/${rule.order}`,
            order: rule.order,
            action: rule.action,
            appliesTo: (place) => applies(model, rule, place),
          }))
          .sort((a, b) => a.order - b.order),
      ),
  }

  function compiledSet(index: number): SetModel {
    const id = ids()[index]!
    const source = estate.ruleSets.get(id)!
    // While dependencies are tracked, sets are cached with the model, and invalidated with their
    // inputs.
    const madeFrom =
      currentObserver() !== null
        ? null
        : asksTags(source)
          ? [...always(), estate.subnets, estate.networks]
          : always()
    const before = madeFrom && compiledSets.get(source)
    if (before && before.set.ref === `ruleSets/${id}` && sameList(before.madeFrom, madeFrom))
      return before.set
    const rules = (source.rules ?? []).map((rule, entry): SetRule => ({
      ...condition(rule),
      entry,
      order: rule.order ?? null,
      allow: rule.action !== 'deny',
    }))
    const ordered = rules.some((rule) => rule.order !== null)
    const made: SetModel = {
      ref: `ruleSets/${id}`,
      stateful: isStateful(source),
      ordered,
      rules: ordered ? [...rules].sort((a, b) => a.order! - b.order!) : rules,
      otherwise: { in: source.otherwise?.in === 'allow', out: source.otherwise?.out === 'allow' },
    }
    if (madeFrom) compiledSets.set(source, { set: made, madeFrom })
    return made
  }
}
