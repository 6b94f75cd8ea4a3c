import { hostPrefix, prefixOf } from '../address/prefix'
import {
  intersectRanges,
  rangeSet,
  rangeSetOf,
  subtractRanges,
  type RangeSet,
} from '../address/ranges'
import { derived } from '../incremental/derived'
import type { Model } from '../model/model'
import { nobodysSpace } from '../walk/public-address'
import type { End } from '../walk/state'

/** Somewhere flows begin: an existing interface, the internet, a site or a party. */
export interface Sender {
  /** As questions name it: `interface:ID`, `internet`, `site:ID` or `party:ID`. */
  readonly name: string
  readonly end: End
  /** The addresses it sends from, as it writes them. */
  readonly addresses: RangeSet
  /** Whether it can send at all: its interface and subnet are up. */
  readonly up: boolean
}

/**
 * Everything flows begin at, by name, in the order of the estate: its interfaces, then the
 * internet, the sites and the parties. An interface in no subnet sends nothing. Costs a step for
 * each interface; cached with the model.
 */
export const sendersOf = derived((model: Model): ReadonlyMap<string, Sender> => {
  const out = new Map<string, Sender>()
  const add = (sender: Sender): void => void out.set(sender.name, sender)
  for (const one of model.interfaces) {
    if (one.subnet < 0 || one.addresses.length === 0 || !model.index.interfaces.has(one.id))
      continue
    const place = { subnet: one.subnet, interface: one.index }
    add({
      name: `interface:${one.id}`,
      end: { in: 'subnet', place, ref: one.ref },
      addresses: rangeSetOf(one.addresses.map(hostPrefix)),
      up: one.up && model.subnets[one.subnet]!.up,
    })
  }
  const outside = (name: string, ref: string, addresses: RangeSet): void =>
    add({ name, end: { in: 'outside', ref }, addresses, up: true })
  outside('internet', 'internet', nobodysSpace(model))
  for (const id of model.index.sites.keys())
    outside(`site:${id}`, `sites/${id}`, writtenRanges(model.estate.sites.get(id)))
  for (const id of model.index.parties.keys())
    outside(`party:${id}`, `parties/${id}`, writtenRanges(model.estate.parties.get(id)))
  return out
})

/** Two states of an estate that are compared. */
export interface Pair {
  readonly before: Model
  readonly after: Model
}

/** Every address of the estate at which a flow can end, public ones among them. */
const insideSpace = derived((model: Model): RangeSet => {
  const owned = model.networks.flatMap(({ owners }) => [...owners.keys()])
  return rangeSetOf([...owned, ...model.publicOwners.keys()].map(hostPrefix))
})

/** Every address outside the estate at which a flow can end. */
const outsideSpace = derived((model: Model): RangeSet => {
  const { sites, services, parties } = model.estate
  const named = [...sites.values(), ...services.values(), ...parties.values()]
  return rangeSet([...model.internetSpace, ...named.flatMap(writtenRanges)])
})

/** Whether an end is the internet, or a party on it. */
export const isOnInternet = (name: string): boolean =>
  name === 'internet' || name.startsWith('party:')

/**
 * The destinations that senders of two states are asked for: those of the estate, and for all but
 * the internet and parties those outside it. What passes between two ends on the internet is none
 * of the estate's.
 */
export function destinationsAskedBy({ before, after }: Pair): (sender: PairedSender) => RangeSet {
  const inside = rangeSet([...insideSpace(before), ...insideSpace(after)])
  const everywhere = rangeSet([...inside, ...outsideSpace(before), ...outsideSpace(after)])
  return ({ name }) => (isOnInternet(name) ? inside : everywhere)
}

/**
 * A sender before a change and after it, with the addresses it sends from in both states and in one
 * only. The internet is what is outside in both.
 */
export interface PairedSender {
  readonly name: string
  readonly before: Sender | null
  readonly after: Sender | null
  readonly both: RangeSet
  readonly onlyBefore: RangeSet
  readonly onlyAfter: RangeSet
  /** The hosts it stands for, where they fare alike but for their addresses. */
  readonly members?: readonly PairedSender[]
}

const NONE: RangeSet = []

/** The senders of two states, paired by name. */
export function pairSenders({ before, after }: Pair): readonly PairedSender[] {
  const [olds, news] = [sendersOf(before), sendersOf(after)]
  return [...new Set([...olds.keys(), ...news.keys()])].map((name) => {
    const [one, other] = [olds.get(name) ?? null, news.get(name) ?? null]
    const [a, b] = [one?.addresses ?? NONE, other?.addresses ?? NONE]
    const ends = { name, before: one, after: other }
    if (a === b) return { ...ends, both: a, onlyBefore: NONE, onlyAfter: NONE }
    const both = intersectRanges(a, b)
    return name === 'internet'
      ? { ...ends, both, onlyBefore: NONE, onlyAfter: NONE }
      : { ...ends, both, onlyBefore: subtractRanges(a, b), onlyAfter: subtractRanges(b, a) }
  })
}

const writtenRanges = (one: { readonly ranges?: readonly string[] } | undefined): RangeSet =>
  rangeSetOf((one?.ranges ?? []).map(prefixOf))
