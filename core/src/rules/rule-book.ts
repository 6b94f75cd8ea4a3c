import { cached, lazy } from '../incremental/cells'
import { derived, sameItems, takenOver, type Outliving } from '../incremental/derived'
import type { Address } from '../address/address'
import { hostPrefix, prefixOf } from '../address/prefix'
import { rangeSet, rangeSetOf, sameRanges, type Range, type RangeSet } from '../address/ranges'
import type { EstateRule, Peer, Rule, RuleSet } from '../format/estate'
import type { Model } from '../model/model'
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
}

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

const setIds = derived((model: Model): readonly string[] => [...model.estate.ruleSets.keys()], {
  same: sameItems,
})

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

/** The addresses of all interfaces that carry a rule set, in any network. */
export const memberRanges = derived(
  (model: Model, ruleSet: string): RangeSet => {
    const set = model.index.ruleSets.get(ruleSet) ?? -1
    return rangeSetOf((carriersOf(model).get(set) ?? []).map(hostPrefix))
  },
  { same: sameRanges },
)

/** The addresses of all interfaces that have a tag, of their own or of where they stand. */
const taggedRanges = derived(
  (model: Model, tag: string): RangeSet =>
    rangeSetOf(
      model.interfaces
        .filter(
          ({ id, index, subnet }) =>
            model.index.interfaces.has(id) && hasTag(model, { subnet, interface: index }, tag),
        )
        .flatMap((one) => one.addresses.map(hostPrefix)),
    ),
  { same: sameRanges },
)

/**
 * Compiled sets with the inputs they were made from. A model with the same inputs takes them over.
 */
const compiledSets: Outliving<RuleSet, SetModel> = new WeakMap()

/** What a compiled set is made of, besides the set itself. */
function inputsOf(model: Model, id: string, source: RuleSet): readonly unknown[] {
  const { estate } = model
  const inputs = [
    id,
    model.interfaces,
    model.internetSpace,
    model.index.ruleSets,
    estate.prefixLists,
    estate.services,
  ]
  return asksTags(source) ? [...inputs, estate.subnets, estate.networks] : inputs
}

const asksTags = (set: RuleSet): boolean =>
  set.rules?.some((rule) =>
    rule.peers?.some((peer) => typeof peer === 'object' && 'tag' in peer),
  ) ?? false

const isStateful = (set: RuleSet): boolean => set.stateful ?? true

function makeBook(model: Model): RuleBook {
  const { estate } = model
  const sets = new Map<number, SetModel>()
  const estateRules = new Map<'all', readonly EstateRuleModel[]>()
  return {
    set: (index) => cached(sets, index, () => compiledSet(model, index)),
    isStateful: (index) => isStateful(estate.ruleSets.get(setIds(model)[index]!)!),
    estateRules: () => cached(estateRules, 'all', () => compiledEstateRules(model)),
  }
}

function compiledSet(model: Model, index: number): SetModel {
  const id = setIds(model)[index]!
  const source = model.estate.ruleSets.get(id)!
  return takenOver(
    compiledSets,
    source,
    () => inputsOf(model, id, source),
    () => compileSet(model, `ruleSets/${id}`, source),
  )
}

function compileSet(model: Model, ref: string, source: RuleSet): SetModel {
  const rules = (source.rules ?? []).map((rule, entry) => ruleOf(model, rule, entry))
  const ordered = rules.some((rule) => rule.order !== null)
  return {
    ref,
    stateful: isStateful(source),
    ordered,
    rules: ordered ? [...rules].sort((a, b) => a.order! - b.order!) : rules,
    otherwise: { in: source.otherwise?.in === 'allow', out: source.otherwise?.out === 'allow' },
  }
}

/** Written out field by field: an estate may have millions of rules. */
function ruleOf(model: Model, rule: Rule, entry: number): SetRule {
  const { direction, protocol, ports, sourcePorts, peers, local } = conditionOf(model, rule)
  return {
    direction,
    protocol,
    ports,
    sourcePorts,
    peers,
    local,
    entry,
    order: rule.order ?? null,
    allow: rule.action !== 'deny',
  }
}

const compiledEstateRules = (model: Model): EstateRuleModel[] =>
  model.estate.estateRules
    .filter((rule) => (rule.state ?? 'up') === 'up')
    .map((rule): EstateRuleModel => ({
      ...conditionOf(model, rule),
      ref: `estateRules/${rule.order}`,
      order: rule.order,
      action: rule.action,
      appliesTo: (place) => applies(model, rule, place),
    }))
    .sort((a, b) => a.order - b.order)

const conditionOf = (model: Model, rule: Rule | EstateRule): Condition => ({
  direction: rule.direction,
  protocol:
    rule.protocol === undefined || rule.protocol === 'any' ? null : protocolNumber(rule.protocol),
  ports: portSpans(rule.ports),
  sourcePorts: portSpans(rule.sourcePorts),
  peers: lazy(() => rangesOfPeers(model, rule.peers)),
  local: rule.local === undefined ? null : rangeSetOf(rule.local.map(prefixOf)),
})

/** The addresses of all far sides of a rule; null for any. */
function rangesOfPeers(model: Model, peers: readonly Peer[] | undefined): RangeSet | null {
  if (peers === undefined) return null
  const ranges: Range[] = []
  for (const peer of peers) {
    const set = rangesOfPeer(model, peer)
    if (set === null) return null
    ranges.push(...set)
  }
  return rangeSet(ranges)
}

/** The addresses a far side of a rule stands for; null for any. */
export function rangesOfPeer(model: Model, peer: Peer): RangeSet | null {
  if (peer === 'any') return null
  if (peer === 'internet') return model.internetSpace
  if (typeof peer === 'string') return rangeSetOf([prefixOf(peer)])
  if ('prefixList' in peer || 'service' in peer)
    return rangeSetOf(destinationPrefixes(model.estate, peer))
  return 'ruleSet' in peer ? memberRanges(model, peer.ruleSet) : taggedRanges(model, peer.tag)
}
