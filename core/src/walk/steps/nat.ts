import { compareAddresses, formatAddress, type Address } from '../../address/address'
import { rangesContain, spanAround } from '../../address/ranges'
import type { NatModel } from '../../model/model'
import { askEdge } from '../ask-on-the-way'
import { servesSource, subnetOf } from '../attached-nat'
import { standInAddress } from '../public-address'
import { changed, arrive, leaveBy, lose, type Said } from '../next-state'
import type { State, Step, WalkContext } from '../state'
import { isPublicHere, noteForPublic, isValue, noteFor, noteForSource } from '../scope'
import { undoLatest } from '../undo'

/** A route led to a NAT that is up and of this network. */
export function enterNatByRoute(
  context: WalkContext,
  state: State,
  nat: NatModel,
  fromSubnet: number,
): Step {
  const { model } = context
  if (nat.subnet >= 0) return [changed(state, { next: { at: 'nat', nat: nat.index, fromSubnet } })]
  const at = (decision: Said): State =>
    arrive(context, state, { at: nat.ref, kind: 'nat', decision })
  if (nat.region === null)
    return lose(context, at('it is placed nowhere'), 'target-elsewhere', nat.ref)
  const goOn = (what: string) => ({
    what,
    then: (s: State): Step => leaveFromRegion(context, s, nat),
  })
  const { region } = model.subnets[fromSubnet] ?? model.networks[nat.network]!
  if (region !== nat.region) {
    return lose(
      context,
      at(() => `it serves ${nat.region}; the packet comes from ${region ?? 'no region'}`),
      'nat-other-region',
      nat.ref,
      goOn('it serves this region too'),
    )
  }
  const note = noteFor(context, state, 'src')
  const asksSubnet = (nat.source.serves?.subnets ?? 'all') !== 'all'
  const subnet = subnetOf(
    model,
    nat.network,
    state.packet.src,
    asksSubnet ? note : noteForSource(context, state, nat.network),
  )
  if (
    typeof state.packet.src === 'number' &&
    (!subnet || !servesSource(model, nat, subnet, state.packet.src, note))
  ) {
    return lose(
      context,
      at(() => `it does not serve ${formatAddress(state.packet.src)}`),
      'nat-does-not-serve',
      nat.ref,
      goOn('it serves the source'),
    )
  }
  return leaveFromRegion(context, state, nat)
}

function leaveFromRegion(context: WalkContext, state: State, nat: NatModel): Step {
  return throughAttachedNat(context, state, nat, (s) => [
    changed(leaveBy(s, nat.ref), { pendingNat: -1, next: { at: 'outside' } }),
  ])
}

/** Through a NAT that serves a region: translated, then out directly. */
export function throughAttachedNat(
  context: WalkContext,
  state: State,
  nat: NatModel,
  then: (state: State) => Step,
): Step {
  if (context.answers !== null)
    return lose(
      context,
      arrive(context, state, { at: nat.ref, kind: 'nat', decision: 'it did not make this flow' }),
      'nat-no-flow',
      nat.ref,
    )
  if (!isPublicHere(state.packet.dst, noteForPublic(context, state, 'dst'))) {
    const decision = () =>
      `${formatAddress(state.packet.dst)} is private, and it leads to the internet only`
    return lose(
      context,
      arrive(context, state, { at: nat.ref, kind: 'nat', decision }),
      'private-destination',
      nat.ref,
    )
  }
  return translate(context, state, nat, then)
}

/**
 * Into a NAT that is placed in a subnet, across that subnet's edge if the packet comes from
 * elsewhere.
 */
export function enterNat(
  context: WalkContext,
  state: State,
  index: number,
  fromSubnet: number,
): Step {
  const nat = context.model.nats[index]!
  const enter = (s: State): Step => inside(context, s, nat)
  return fromSubnet === nat.subnet ? enter(state) : askEdge(context, state, 'in', nat.subnet, enter)
}

function inside(context: WalkContext, state: State, nat: NatModel): Step {
  const sendOn = (s: State): Step => [
    changed(s, {
      next: {
        at: 'send',
        sender: { kind: 'nat', ref: nat.ref, place: { subnet: nat.subnet, interface: -1 } },
      },
    }),
  ]
  if (context.answers !== null) {
    const latest = state.toUndo[0]
    if (
      latest?.kind === 'source' &&
      latest.by === nat.ref &&
      isValue(state.packet.dst, latest.after, noteFor(context, state, 'dst'))
    ) {
      const undone = undoLatest(state)
      const decision = () =>
        `${formatAddress(state.packet.dst)} becomes ${formatAddress(undone.packet.dst)} again`
      return sendOn(arrive(context, undone, { at: nat.ref, kind: 'nat', decision }))
    }
    return lose(
      context,
      arrive(context, state, { at: nat.ref, kind: 'nat', decision: 'it did not make this flow' }),
      'nat-no-flow',
      nat.ref,
    )
  }
  if (state.pendingNat === nat.index)
    return lose(
      context,
      arrive(context, state, { at: nat.ref, kind: 'nat', decision: 'the packet comes back to it' }),
      'looped',
      nat.ref,
    )
  return translate(context, state, nat, (s) =>
    sendOn(nat.kind === 'public' ? changed(s, { pendingNat: nat.index }) : s),
  )
}

/**
 * The source becomes an address of the pool, or of the first rule whose destinations hold it (RFC
 * 2663, 4.1.2).
 */
function translate(
  context: WalkContext,
  state: State,
  nat: NatModel,
  then: (state: State) => Step,
): Step {
  const { src, dst } = state.packet
  const at = (decision: Said, s: State = state): State =>
    arrive(context, s, {
      at: nat.ref,
      kind: 'nat',
      decision,
      evidence: () => natEvidence(nat, dst),
    })
  if (typeof dst !== 'number')
    return lose(context, at('it translates IPv4 only'), 'nat-wrong-family', nat.ref)
  const { pool, order } = poolFor(nat, dst)
  const note = noteFor(context, state, 'dst')
  if (note) for (const rule of nat.rules) note(spanAround(rule.to, dst))
  const by = order === null ? 'its pool' : `rule ${order}`
  const become = (s: State, addresses: readonly Address[], seenAs: readonly string[]): State =>
    changed(s, {
      packet: { ...s.packet, src: addresses[0]! },
      fields: { ...s.fields, src: null },
      seenAs,
      translations: [
        ...s.translations,
        {
          by: nat.ref,
          kind: 'source',
          before: src,
          after: addresses[0]!,
          origin: { address: s.fields.src, port: null },
        },
      ],
    })
  if (pool.length === 0) {
    return lose(
      context,
      at(() => `${by} has no address that is not draining`),
      'nat-no-address',
      nat.ref,
      {
        what: 'it has an address',
        then: (s) => then(become(s, [standInAddress(context.model)], ['unpredictable'])),
      },
    )
  }
  const choice = pool.map(formatAddress).join(' or ')
  return then(
    at(
      () => `${formatAddress(src)} becomes ${choice}, from ${by}`,
      become(state, pool, [...pool].sort(compareAddresses).map(formatAddress)),
    ),
  )
}

/**
 * The addresses a NAT may use for a destination, draining ones left out, and the rule that chose
 * them.
 */
export function poolFor(
  nat: NatModel,
  destination: Address,
): { pool: readonly Address[]; order: number | null } {
  const rule = nat.rules.find((candidate) => rangesContain(candidate.to, destination))
  const pool = (rule?.use ?? nat.addresses).filter(
    (address) => typeof address === 'number' && !nat.draining.has(address),
  )
  return { pool, order: rule?.order ?? null }
}

function natEvidence(nat: NatModel, destination: Address): object {
  const { pool, order } = poolFor(nat, destination)
  return {
    nat: nat.ref,
    kind: nat.kind,
    rules: nat.rules.map((rule) => ({
      order: rule.order,
      matched: rangesContain(rule.to, destination),
      decided: rule.order === order,
      use: rule.use.map(formatAddress),
    })),
    pool: nat.addresses.map(formatAddress),
    draining: [...nat.draining].map(formatAddress),
    chosen: pool.map(formatAddress),
    allocation: nat.source.allocation ?? 'manual',
  }
}

/** A packet to an address of a NAT that belongs to no flow through it. */
export function beginTowardsNat(context: WalkContext, state: State, nat: NatModel): Step {
  const met = arrive(context, state, {
    at: nat.ref,
    kind: 'nat',
    decision: 'nothing can begin a flow towards a NAT',
  })
  return lose(context, met, context.answers ? 'nat-no-flow' : 'nat-outbound-only', nat.ref)
}
