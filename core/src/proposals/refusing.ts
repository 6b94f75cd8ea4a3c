import { byOwner } from '../addresses/named-space'
import { parseAddress, type Address } from '../address/address'
import { prefixOf } from '../address/prefix'
import { rangesContain, rangeSetOf } from '../address/ranges'
import type { Finding, FindingCode } from '../findings/finding'
import type { Peer } from '../format/estate'
import { mend, type Mend } from '../mend/mend'
import type { InterfaceModel, Model } from '../model/model'
import { isRefusal } from '../trace/question'
import { trace } from '../trace/trace'
import { addressesOf, denyFirst, MOST_PREFIXES, type Denial } from './keeping-closed'
import type { Purpose } from './purpose'

/** Packets that rules let pass, and of which no answer, or nothing at all, ever arrives. */
const LET_PASS_IN_VAIN: ReadonlySet<FindingCode> = new Set([
  'hole-no-way-back',
  'hole-no-state',
  'hole-no-way-out',
  'hole-rules-without-route',
])

/** The far side of what is refused, said to people and in a rule. */
interface FarSide {
  readonly says: string
  readonly peers: readonly Peer[]
}

/** The hosts at which it is refused. */
interface Side {
  readonly says: string
  readonly isOne: boolean
  readonly prefixes: readonly string[]
}

/**
 * Changes that refuse, by a rule of the estate, what is let pass in vain: packets whose answers are
 * lost, at who is asked, or packets that have no way, at who sends them. First for all that the
 * finding names and all of the far side, then for its packet's own host and range. For findings
 * without a harmless change that makes it work. Costs one trace.
 */
export function refuseInVain(model: Model, { finding, question }: Purpose): readonly Mend[] {
  if (finding === null || question === null || !LET_PASS_IN_VAIN.has(finding.code)) return []
  const answer = trace(model, question)
  if (isRefusal(answer)) return []
  const { stations, outcome } = answer.forward
  const [first, last] = [stations[0], stations.at(-1)]
  if (!first || !last) return []
  const [src, dst] = [first.packet.src, last.packet.dst].map((text) => parseAddress(text)!) as [
    Address,
    Address,
  ]
  const asked = outcome === 'delivered' ? interfaceAt(model, last.at) : null
  const asker = interfaceAt(model, first.at)
  const [near, far, direction] = asked
    ? ([asked, src, 'in'] as const)
    : ([asker, dst, 'out'] as const)
  if (near === null) return []
  const peer = direction === 'in' ? asker : null
  const pairs = [
    [hostsOf(model, finding, near), peer ? subnetOf(model, peer) : farSide(model, far, finding)],
    [sideOf(model, [near]), peer ? sideOf(model, [peer]) : rangeAt(model, far)],
  ] as const
  return pairs.flatMap(([local, peers]) =>
    peers === null ? [] : refusal(model, { direction, local, peers }),
  )
}

function refusal(
  model: Model,
  {
    direction,
    local,
    peers,
  }: {
    readonly direction: 'in' | 'out'
    readonly local: Side
    readonly peers: FarSide
  },
): Mend[] {
  const denial: Denial = { direction, local: [...local.prefixes], peers: [...peers.peers] }
  const what =
    direction === 'in'
      ? `refuse what ${peers.says} asks of ${local.says}`
      : `refuse what ${local.says} ${local.isOne ? 'asks' : 'ask'} of ${peers.says}`
  const made = mend(`${what} at once, since no answer comes back`, [denyFirst(model, denial)])
  return made ? [made] : []
}

const interfaceAt = ({ interfaces, index }: Model, ref: string): InterfaceModel | null =>
  ref.startsWith('interfaces/')
    ? (interfaces[index.interfaces.get(ref.slice('interfaces/'.length)) ?? -1] ?? null)
    : null

/**
 * The hosts beside one that a finding names, or all of its subnet where the finding is about it; the
 * subnet's ranges where it has more hosts than somebody reads.
 */
function hostsOf(model: Model, { objects }: Finding, host: InterfaceModel): Side {
  const named = new Set(objects)
  const beside = (model.subnets[host.subnet]?.interfaces ?? []).map(
    (number) => model.interfaces[number]!,
  )
  // A finding names a few of very many.
  if (beside.length > MOST_PREFIXES) {
    const { id } = model.subnets[host.subnet]!
    return { says: id, isOne: true, prefixes: model.estate.subnets.get(id)?.ranges ?? [] }
  }
  const own = beside.filter(({ ref }) => named.has(ref))
  return sideOf(model, own.length > 0 ? own : beside)
}

const sideOf = (model: Model, hosts: readonly InterfaceModel[]): Side & FarSide => {
  const ids = hosts.map(({ id }) => id)
  const prefixes = addressesOf(model, ids)
  const says =
    ids.length > 2
      ? `${ids.length} hosts of ${model.subnets[hosts[0]!.subnet]!.id}`
      : ids.join(' and ')
  return { says, isOne: ids.length === 1, prefixes, peers: prefixes }
}

function subnetOf({ subnets, estate }: Model, { subnet }: InterfaceModel): FarSide {
  const { id } = subnets[subnet]!
  return { says: id, peers: estate.subnets.get(id)?.ranges ?? [] }
}

/** All of whom an address belongs to, or the destinations that a finding names. */
function farSide(model: Model, address: Address, { code, evidence }: Finding): FarSide | null {
  if (code === 'hole-rules-without-route') {
    const isWhole = evidence.ranges.every((text) => text.includes('/'))
    return isWhole ? { says: evidence.ranges.join(', '), peers: evidence.ranges } : null
  }
  const owner = byOwner(model, [{ from: address, to: address }])[0]?.owner ?? ''
  const id = owner.slice(owner.indexOf('/') + 1)
  if (owner.startsWith('services/')) return { says: id, peers: [{ service: id }] }
  if (owner.startsWith('sites/'))
    return { says: id, peers: model.estate.sites.get(id)?.ranges ?? [] }
  return owner === 'internet' || owner.startsWith('parties/')
    ? { says: 'the internet', peers: ['internet' as const] }
    : null
}

/** The range of a site that has an address. */
function rangeAt({ estate }: Model, address: Address): FarSide | null {
  for (const [id, { ranges = [] }] of estate.sites) {
    const own = ranges.find((text) => rangesContain(rangeSetOf([prefixOf(text)]), address))
    if (own !== undefined) return { says: `${own} of ${id}`, peers: [own] }
  }
  return null
}
