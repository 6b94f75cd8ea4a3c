/**
 * What decides the ways of every subnet, without finding them: the routing of its own up to the
 * first transit, which subnets with the same table share, and what lies beyond transits, which all
 * who come there share. Two states are compared by these objects, so ways are found only for
 * subnets where they may differ (`compare/routing.ts`).
 */
import { formatAddress } from '../address/address'
import { rangeText } from '../address/ranges'
import { cached } from '../incremental/cells'
import type { Model, SubnetModel } from '../model/model'
import { presentOf } from '../model/present'
import { outcomesFromEntry } from './behind'
import { hopsOf, type HopMemo } from './hops'
import type { HostKind } from './kinds'
import type { BeyondTransit, OnwardRange } from './onward'
import { rangesOfItsOwn, type HopRange } from './sweep'
import { outcomeText } from './ways'

/** What decides the ways of one kind of host in a subnet, up to the first transit. */
export interface KindRouting {
  readonly kind: HostKind
  /** All that tells this kind from others with the same ranges, as text. */
  readonly names: string
  /** Without the names of this subnet and host: shared by all that route alike. */
  readonly 4: readonly HopRange[]
  readonly 6: readonly HopRange[]
}

/** What decides the ways of all subnets of one state. */
export interface Routing {
  /** By the id of a subnet. The same list as in another state where nothing of it changed. */
  readonly subnets: ReadonlyMap<string, readonly KindRouting[]>
  /** What a subnet meets beyond transits that others do not; nearly all have nothing here. */
  readonly ofItsOwn: ReadonlyMap<string, OfItsOwn>
  /** What lies beyond transits, by the key of the place where packets come in. */
  readonly beyond: ReadonlyMap<string, readonly OnwardRange[]>
}

/** Outcomes beyond transits that hold for one subnet alone, such as a loop through its network. */
export interface OfItsOwn {
  /** All that they say, so that two states can be compared. */
  readonly text: string
  /** By the place of a kind of host in its subnet. */
  readonly kinds: readonly (readonly OnwardRange[])[]
}

/** The routing of a state, and the caches by which the next state takes over what is the same. */
export interface RoutingCache {
  readonly subnets: Map<number, readonly KindRouting[]>
  readonly ofItsOwn: Map<number, OfItsOwn>
}

export const routingCache = (): RoutingCache => ({ subnets: new Map(), ofItsOwn: new Map() })

/**
 * The routing of every subnet that is there. Costs the sweep of each route table; under `track`,
 * only what a change touches.
 */
export function routingOf(model: Model, memo: HopMemo, cache: RoutingCache): Routing {
  const subnets = new Map<string, readonly KindRouting[]>()
  const ofItsOwn = new Map<string, OfItsOwn>()
  const beyond = new Map<string, readonly OnwardRange[]>()
  for (const index of presentOf(model, 'subnets')) {
    const { id } = model.subnets[index]!
    const kinds = cached(cache.subnets, index, () => kindsOf(model, model.subnets[index]!, memo))
    subnets.set(id, kinds)
    for (const kind of kinds)
      for (const family of [4, 6] as const)
        for (const { from, behind } of entriesOf(kind[family]))
          if (!beyond.has(behind.junction.key))
            beyond.set(
              behind.junction.key,
              outcomesFromEntry(model, memo, behind.junction, { from }),
            )
    const own = cached(cache.ofItsOwn, index, () =>
      itsOwn(model, model.subnets[index]!, kinds, memo),
    )
    if (own.text !== '') ofItsOwn.set(id, own)
  }
  return { subnets, ofItsOwn, beyond }
}

const kindsOf = (model: Model, subnet: SubnetModel, memo: HopMemo): readonly KindRouting[] =>
  hopsOf(model, subnet, memo).map(({ kind, shared }): KindRouting => ({
    kind,
    names: namesOf(model, kind),
    4: shared[4],
    6: shared[6],
  }))

function namesOf(model: Model, { ref, interfaces, tags, hasPublicAddress, range }: HostKind) {
  const hosts = interfaces.map((index) => {
    const { id, publicAddress } = model.interfaces[index]!
    return publicAddress === null ? id : `${id} ${formatAddress(publicAddress)}`
  })
  return [ref, tags, hasPublicAddress, range, ...hosts].join('|')
}

function itsOwn(
  model: Model,
  subnet: SubnetModel,
  routed: readonly KindRouting[],
  memo: HopMemo,
): OfItsOwn {
  const kinds = routed.map(({ kind, ...ranges }) =>
    ([4, 6] as const).flatMap((family) =>
      entriesOf(ranges[family]).flatMap((range) =>
        rangesOfItsOwn(model, subnet, kind, range, memo),
      ),
    ),
  )
  const texts = kinds.map((own) =>
    own.map((range) => `${rangeText(range)} ${outcomeText(range.outcome)}`).join('\n'),
  )
  return { text: texts.join('\n').trim(), kinds }
}

/** A range that leads to a transit. */
export type EntryRange = HopRange & { readonly behind: BeyondTransit }

const entries = new WeakMap<readonly HopRange[], readonly EntryRange[]>()

/** The ranges that lead to transits. Cached for as long as the list is. */
export function entriesOf(list: readonly HopRange[]): readonly EntryRange[] {
  let known = entries.get(list)
  if (!known)
    entries.set(list, (known = list.filter((one): one is EntryRange => one.behind !== null)))
  return known
}
