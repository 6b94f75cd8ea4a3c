import type { Flow, FlowBranch } from '../flows/flow'
import type { Model } from '../model/model'
import type { CauseCode } from '../walk/causes'
import { splitRef } from '../format/ref'

/** Whether a packet works there and back: by all of its branches, by some, or by none. */
export type Works = 'all' | 'some' | 'none'

/** What becomes of a packet, as far as two states are compared by it. */
export interface Fate {
  readonly works: Works
  /** The firewalls that every branch passes on the way there, sorted. */
  readonly there: readonly string[]
  readonly back: readonly string[]
  /** What the destination address belongs to, as questions name it, sorted. */
  readonly to: readonly string[]
  /** Why it is lost where no branch works: the cause of the worst; null where one works. */
  readonly lost: { readonly code: CauseCode; readonly object: string } | null
  /**
   * The objects it ends at, behind a frontend too, sorted. All beyond the internet, services too,
   * is one.
   */
  readonly hosts: readonly string[]
}

/** The fate of a packet whose sender is not there. */
export const NO_FATE: Fate = {
  works: 'none',
  there: [],
  back: [],
  lost: null,
  to: [],
  hosts: [],
}

/** What becomes of a flow that was asked with its answer. */
export function fateOf(model: Model, { branches, worst }: Flow): Fate {
  const fate = fateOfBranches(
    model,
    branches.map((branch) => (worksOf(branch) ? branch : null)),
  )
  const { cause } = worst
  return fate.works === 'none' && cause
    ? { ...NO_FATE, lost: { code: cause.code, object: cause.object } }
    : fate
}

/** What becomes of packets by their branches, null for one that loses them. */
export function fateOfBranches(model: Model, branches: readonly (FlowBranch | null)[]): Fate {
  const working = branches.filter((branch) => branch !== null)
  if (working.length === 0) return NO_FATE
  const sortedOnce = (texts: readonly string[]): string[] => [...new Set(texts)].sort()
  return {
    works: working.length === branches.length ? 'all' : 'some',
    there: onEvery(working.map(({ way }) => way)),
    back: onEvery(working.map(({ wayBack }) => wayBack ?? [])),
    lost: null,
    to: sortedOnce(working.map((branch) => endNameOf(branch))),
    hosts: sortedOnce(working.map((branch) => hostOf(model, branch))),
  }
}

/**
 * Whether a branch works. One that ends at an address nobody has does not: nothing is there that
 * could answer.
 */
export const worksOf = ({ verdict, deliveredAt }: FlowBranch): boolean =>
  verdict === 'works' &&
  deliveredAt !== null &&
  (deliveredAt.in === 'outside' || deliveredAt.place.interface >= 0)

/** The firewalls that are on each of some ways. */
const onEvery = (ways: readonly (readonly string[])[]): string[] =>
  [...new Set(ways[0])]
    .filter((ref) => ref.startsWith('firewalls/') && ways.every((way) => way.includes(ref)))
    .sort()

const END_NAMES: Readonly<Record<string, string>> = {
  interfaces: 'interface',
  sites: 'site',
  parties: 'party',
  services: 'service',
}

/** An object flows end at, as questions name it. */
export function endName(ref: string): string {
  if (ref === 'internet') return ref
  const [section, id] = splitRef(ref)
  return `${END_NAMES[section] ?? section}:${id}`
}

function endNameOf({ way, deliveredAt }: FlowBranch): string {
  const frontend = way.find((ref) => ref.startsWith('frontends/'))
  return frontend === undefined
    ? endName(deliveredAt!.ref)
    : `frontend:${frontend.slice('frontends/'.length)}`
}

function hostOf(model: Model, { deliveredAt }: FlowBranch): string {
  const end = deliveredAt!
  if (end.in === 'subnet') return model.interfaces[end.place.interface]!.ref
  return end.ref.startsWith('sites/') ? end.ref : 'internet'
}

/** In which way a packet differs between two states; null where it does not. */
export type DifferenceKind = 'opened' | 'cut' | 'passedBy' | 'inspected' | 'elsewhere'

export interface FateDifference {
  readonly kind: DifferenceKind
  /** Some branches work in one of the states, but not all. */
  readonly partly: boolean
}

const RANK: Readonly<Record<Works, number>> = { none: 0, some: 1, all: 2 }

/**
 * How a packet's fate differs. What works in one state only is opened or cut; what works in both
 * may end at another host, lack a firewall it passed, or meet one it did not: several may hold.
 */
export function differencesOf(before: Fate, after: Fate): readonly FateDifference[] {
  if (before.works !== after.works) {
    const partly = before.works === 'some' || after.works === 'some'
    return [{ kind: RANK[before.works] < RANK[after.works] ? 'opened' : 'cut', partly }]
  }
  if (before.works === 'none') return []
  const partly = before.works === 'some'
  const found: FateDifference[] = []
  if (before.hosts.join() !== after.hosts.join()) found.push({ kind: 'elsewhere', partly })
  const lacks = (those: readonly string[], these: readonly string[]): boolean =>
    those.some((ref) => !these.includes(ref))
  if (lacks(before.there, after.there) || lacks(before.back, after.back))
    found.push({ kind: 'passedBy', partly })
  if (lacks(after.there, before.there) || lacks(after.back, before.back))
    found.push({ kind: 'inspected', partly })
  return found
}
