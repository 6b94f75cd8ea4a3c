import { formatAddress } from '../address/address'
import type { Model } from '../model/model'
import type { Target } from '../model/targets'
import type { CauseCode } from './causes'

/** The interface that receives packets for a next-hop address or interface, or why none does. */
export interface NextHopOwner {
  /** The interface's number, or −1. */
  readonly interface: number
  readonly subnet: number
  readonly network: number
  readonly fault: {
    readonly code: CauseCode
    readonly object: string | null
    readonly why: string
  } | null
}

const nobody = (code: CauseCode, object: string | null, why: string): NextHopOwner => ({
  interface: -1,
  subnet: -1,
  network: -1,
  fault: { code, object, why },
})

/**
 * Finds the owner of a next hop given as `address` or `interface`: in the same network; in a
 * default-open one also in directly peered networks (design part 3.2). An object of null in the
 * fault means the table of the winning route.
 */
export function nextHopOwner(model: Model, network: number, target: Target): NextHopOwner {
  if (target.kind === 'interface') {
    if (target.index < 0)
      return nobody('target-missing', null, `there is no interface ${target.id}`)
    return judge(model, network, target.index)
  }
  if (target.kind !== 'address')
    return nobody('next-hop-missing', null, 'the next hop is no address')
  const reachable = [
    network,
    ...(model.networks[network]!.behaviour === 'default-open' ? peersOf(model, network) : []),
  ]
  for (const candidate of reachable) {
    const owner = model.networks[candidate]!.owners.get(target.address)
    if (owner?.kind === 'interface') return judge(model, network, owner.index)
    if (owner)
      return nobody(
        'next-hop-not-forwarding',
        `${owner.kind === 'nat' ? 'nats' : 'frontends'}/${ownerId(model, owner)}`,
        `${formatAddress(target.address)} is no interface that forwards`,
      )
  }
  const text = formatAddress(target.address)
  const elsewhere = peersOf(model, network)
    .map((n) => model.networks[n]!)
    .find((n) => !reachable.includes(n.index) && n.owners.has(target.address))
  if (elsewhere)
    return nobody(
      'next-hop-in-other-network',
      null,
      `${text} is in the peered network ${elsewhere.id}, where a next hop must not be`,
    )
  return nobody('next-hop-missing', null, `nobody in ${model.networks[network]!.id} has ${text}`)
}

function judge(model: Model, network: number, index: number): NextHopOwner {
  const one = model.interfaces[index]!
  const subnet = model.subnets[one.subnet]
  const found = { interface: index, subnet: one.subnet, network: subnet?.network ?? -1 }
  const fault = (code: CauseCode, object: string | null, why: string): NextHopOwner => ({
    ...found,
    fault: { code, object, why },
  })
  const sameOrOpenPeer =
    found.network === network ||
    (model.networks[network]!.behaviour === 'default-open' &&
      arePeered(model, network, found.network))
  if (!sameOrOpenPeer) {
    return arePeered(model, network, found.network)
      ? fault(
          'next-hop-in-other-network',
          null,
          `${one.id} is in a peered network, where a next hop must not be`,
        )
      : fault('target-elsewhere', one.ref, `${one.id} is in another network`)
  }
  if (!one.up) return fault('next-hop-not-up', one.ref, `${one.id} is not up`)
  if (!one.forwards)
    return fault(
      'next-hop-not-forwarding',
      one.ref,
      `${one.id} does not forward packets that are not addressed to it`,
    )
  return { ...found, fault: null }
}

/**
 * Next hops that a priority-routed network passes over: those without an owner, or whose owner is
 * not up. All others win, and may lose the packet.
 */
export function isPassedOver(model: Model, network: number, target: Target): boolean {
  if (target.kind === 'interface') return !(model.interfaces[target.index]?.up ?? false)
  const code = nextHopOwner(model, network, target).fault?.code
  return code === 'next-hop-not-up' || code === 'next-hop-missing'
}

const ownerId = (model: Model, owner: { kind: string; index: number }): string =>
  owner.kind === 'nat'
    ? model.nats[owner.index]!.id
    : ([...model.estate.frontends.keys()][owner.index] ?? '')

const peersOf = (model: Model, network: number): number[] =>
  (model.attached.peerings.get(network) ?? [])
    .filter((p) => p.up)
    .map((p) => (p.a.network === network ? p.b.network : p.a.network))

const arePeered = (model: Model, a: number, b: number): boolean => peersOf(model, a).includes(b)
