import type { Family } from '../address/address'
import { formatAddress } from '../address/address'
import type { Model, SubnetModel } from '../model/model'
import { hostKinds, type HostKind } from './kinds'
import { sweep, type Hop, type HopRange, type Sweep } from './sweep'

/** The effective next hops of one kind of host in a subnet. */
export interface HopTable {
  readonly kind: HostKind
  readonly 4: readonly HopRange[]
  readonly 6: readonly HopRange[]
}

/** What was found for one subnet, kept for others whose routing asks the very same. */
export interface HopMemo {
  readonly sweeps: Map<string, { readonly sweep: Sweep; readonly selves: readonly string[] }[]>
}

export const hopMemo = (): HopMemo => ({ sweeps: new Map() })

/** The effective next hops of a subnet: design part 3.5. With a memo, subnets that share a table share the work. */
export function hopsOf(model: Model, subnet: SubnetModel, memo: HopMemo = hopMemo()): HopTable[] {
  return hostKinds(model, subnet).map((kind): HopTable => {
    const of = (family: Family): readonly HopRange[] => {
      const { ranges } = shared(model, subnet, kind, family, memo)
      return kind.hasPublicAddress && kind.interfaces.length > 0 ? ranges.map((range) => seenByEach(model, kind, range)) : ranges
    }
    return { kind, 4: of(4), 6: of(6) }
  })
}

/** Where several hosts with public addresses share a way, the far side may see any of these. */
function seenByEach(model: Model, kind: HostKind, range: HopRange): HopRange {
  const own = model.interfaces[kind.interfaces[0]!]!.publicAddress
  if (own === null || !range.hop.seenAs.includes(formatAddress(own))) return range
  const all = kind.interfaces.flatMap((index) => model.interfaces[index]!.publicAddress ?? []).sort((a, b) => (a < b ? -1 : 1))
  return { ...range, hop: { ...range.hop, seenAs: all.map(formatAddress) } }
}

function shared(model: Model, subnet: SubnetModel, kind: HostKind, family: Family, memo: HopMemo): Sweep {
  const source = kind.sources[family]
  if (source === null) return { ranges: [], sources: { from: 0, to: 0 } }
  if (!subnet.up) return lostAtHome(subnet, family)
  // A host with a public address is seen at that address: nothing to share.
  const key = kind.hasPublicAddress ? null : `${shareKey(model, subnet)} ${kind.tags.join(',')} ${family}`
  if (key === null) return sweep(model, subnet, kind, family)
  const list = memo.sweeps.get(key) ?? []
  const known = list.find((one) => one.sweep.sources.from <= source && source <= one.sweep.sources.to)
  if (known) return withSelf(known, [subnet.ref, kind.ref])
  const made = { sweep: sweep(model, subnet, kind, family), selves: [subnet.ref, kind.ref] }
  memo.sweeps.set(key, [...list, made])
  return made.sweep
}

const numbers = new WeakMap<object, number>()
let next = 0
const numberOf = (object: object): number => {
  const known = numbers.get(object)
  if (known !== undefined) return known
  numbers.set(object, ++next)
  return next
}

/** All that routing asks of a subnet. One that packets may come back through shares with nobody. */
function shareKey(model: Model, subnet: SubnetModel): string {
  return `${subnet.network} ${subnet.table} ${numberOf(subnet.learned)} ${numberOf(subnet.switched)} ${subnet.region} ${subnet.zone} ${passedThrough(model).has(subnet.index) ? subnet.index : ''}`
}

const passed = new WeakMap<Model, ReadonlySet<number>>()

/** The subnets that packets of others may pass: with forwarding interfaces, NATs, inline endpoints, attachments. */
function passedThrough(model: Model): ReadonlySet<number> {
  let known = passed.get(model)
  if (!known) {
    const ids = (list: readonly string[]): number[] => list.flatMap((id) => model.index.subnets.get(id) ?? [])
    const out = new Set<number>()
    for (const one of model.interfaces) if (one.forwards || model.firewallAt.has(one.index)) out.add(one.subnet)
    for (const nat of model.nats) out.add(nat.subnet)
    for (const transit of model.transits)
      for (const a of Object.values(transit.source.attachments ?? {})) for (const index of ids(a.subnets ?? [])) out.add(index)
    for (const firewall of model.firewalls)
      if (firewall.source.style === 'inline')
        for (const endpoint of Object.values(firewall.source.endpoints ?? {})) for (const index of ids([endpoint.subnet])) out.add(index)
    known = out
    passed.set(model, known)
  }
  return known
}

/** The same ranges, where a cause that named the first subnet or host now names this one. */
function withSelf({ sweep: found, selves }: { readonly sweep: Sweep; readonly selves: readonly string[] }, own: readonly string[]): Sweep {
  const renamed = new Map<Hop, Hop>()
  let differs = false
  const ranges = found.ranges.map((range): HopRange => {
    const { cause } = range.hop
    const at = cause === null ? -1 : selves.indexOf(cause.object)
    const inner = cause?.inner ? selves.indexOf(cause.inner.object) : -1
    if (cause === null || (at < 0 && inner < 0)) return range
    differs = true
    let hop = renamed.get(range.hop)
    if (!hop) {
      hop = {
        ...range.hop,
        cause: {
          ...cause,
          object: at < 0 ? cause.object : own[at]!,
          ...(cause.inner ? { inner: { ...cause.inner, object: inner < 0 ? cause.inner.object : own[inner]! } } : {}),
        },
      }
      renamed.set(range.hop, hop)
    }
    return { ...range, hop }
  })
  return differs ? { ...found, ranges } : found
}

/** A subnet that is not up sends nothing anywhere. */
function lostAtHome(subnet: SubnetModel, family: Family): Sweep {
  const hop: Hop = {
    winners: [],
    shadowed: [],
    ways: [[]],
    leavesBy: null,
    seenAs: [],
    cause: { code: 'interface-not-up', object: subnet.ref },
    into: -1,
    reaches: null,
  }
  const space = family === 4 ? { from: 0, to: 0xffffffff } : { from: 0n, to: (1n << 128n) - 1n }
  return { ranges: [{ ...space, hop }], sources: space }
}
