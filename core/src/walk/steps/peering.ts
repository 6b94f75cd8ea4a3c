import { derived } from '../../incremental/derived'
import { formatAddress } from '../../address/address'
import { sameRanges, rangeSetOf, type RangeSet } from '../../address/ranges'
import { gatewayRanges } from '../../model/learned'
import type { Model, NetworkModel, PeeringModel } from '../../model/model'
import { fact, rangesText, type FactsEvidence } from '../facts'
import { inPrefixes, noteFor, rangesContainHere } from '../scope'
import { arrive, finish, lose, type Said } from '../next-state'
import type { State, Step, WalkContext } from '../state'

/** The network on the other side of a peering. */
export const otherSide = (peering: PeeringModel, network: number): number =>
  peering.a.network === network ? peering.b.network : peering.a.network

/**
 * Which of a peering's two checks hold: a next-hop address need not be the destination; lent
 * gateways' traffic is free of both.
 */
export type PeeringUse = 'destination' | 'next-hop' | 'lent'

/**
 * Crosses a peering from `network` to its other side. A peering is not transitive: the destination
 * must be the other network's, and what is forwarded from elsewhere must be accepted there.
 */
export function crossPeering(
  context: WalkContext,
  state: State,
  peering: PeeringModel,
  network: number,
  use: PeeringUse,
  then: (state: State) => Step,
): Step {
  const { model } = context
  const to = model.networks[otherSide(peering, network)]
  const from = model.networks[network]!
  const receiving = peering.a.network === network ? peering.b : peering.a
  const { src, dst } = state.packet
  // Beyond a peering whose other side is gone nothing can be assumed.
  if (!to) return [finish(state, null)]
  const within =
    use !== 'destination' ||
    inPrefixes(to.ranges, dst, peering.up ? noteFor(context, state, 'dst') : undefined)
  const asksSource = peering.up && within && use !== 'lent' && !receiving.acceptsForwarded
  const own = inPrefixes(from.ranges, src, asksSource ? noteFor(context, state, 'src') : undefined)
  const lent =
    use === 'lent' || (asksSource && !own && carriesLentRoute(context, state, peering, network))
  const evidence = peeringFacts(state, { peering, from, to, use, within, own, lent })
  const cross = (decision: Said, s: State): State =>
    arrive(context, s, { at: peering.ref, kind: 'peering', decision, evidence })
  const goOn = (what: string) => ({ what, then })
  if (!peering.up)
    return lose(
      context,
      cross('it is not up', state),
      'target-not-up',
      peering.ref,
      goOn(`${peering.id} is up`),
    )
  if (use === 'destination' && !within) {
    return lose(
      context,
      cross(`${formatAddress(dst)} lies beyond ${to.id}, and a peering is not transitive`, state),
      'peering-not-transitive',
      peering.ref,
    )
  }
  if (!lent && !receiving.acceptsForwarded && !own) {
    return lose(
      context,
      cross(
        `${formatAddress(src)} is not from ${from.id}, and forwarded packets are not taken`,
        state,
      ),
      'forwarded-refused',
      peering.ref,
      goOn('forwarded packets are taken'),
    )
  }
  return then(cross(`across to ${to.id}`, state))
}

/**
 * Whether a packet goes to, or comes from, a range that a private gateway of the lending side
 * learned. Also where the lender's own firewall or forwarder hands it on, such a packet crosses the
 * peering without a check of its source (design part 3.2).
 */
function carriesLentRoute(
  context: WalkContext,
  state: State,
  peering: PeeringModel,
  network: number,
): boolean {
  const [own, other] =
    peering.a.network === network ? [peering.a, peering.b] : [peering.b, peering.a]
  const holds = (lender: number, field: 'src' | 'dst'): boolean =>
    rangesContainHere(
      lentRanges(context.model, lender),
      state.packet[field],
      noteFor(context, state, field),
    )
  return (
    (own.lendsGateway && other.usesPeerGateway && holds(own.network, 'src')) ||
    (own.usesPeerGateway && other.lendsGateway && holds(other.network, 'dst'))
  )
}

/** A crossing of a peering, with what was found of it. */
interface Crossing {
  readonly peering: PeeringModel
  readonly from: NetworkModel
  readonly to: NetworkModel
  readonly use: PeeringUse
  /** Whether the destination is in the other network. */
  readonly within: boolean
  /** Whether the source is in this one. */
  readonly own: boolean
  readonly lent: boolean
}

/** What is looked at when a packet crosses a peering. */
const peeringFacts =
  (state: State, { peering, from, to, use, within, own, lent }: Crossing) =>
  (): FactsEvidence => {
    const { src, dst } = state.packet
    const receiving = peering.a.network === from.index ? peering.b : peering.a
    const isLent = fact('it carries a lent gateway’s traffic', `${from.id} and ${to.id}`, true)
    const isWithin = fact(
      `the destination is in ${to.id}`,
      `${formatAddress(dst)}, of ${rangesText(to.ranges)}`,
      within,
    )
    return {
      facts: [
        fact('it is up', peering.up ? 'yes' : 'no', peering.up),
        ...(lent ? [isLent] : []),
        ...(use === 'destination' ? [isWithin] : []),
        lent || own
          ? fact(`the source is in ${from.id}`, formatAddress(src), own || lent)
          : fact(
              `${to.id} takes forwarded packets`,
              `${formatAddress(src)} is not from ${from.id}`,
              receiving.acceptsForwarded,
            ),
      ],
    }
  }

/** The ranges that the private gateways of a network learned. */
const lentRanges = derived(
  (model: Model, lender: number): RangeSet => {
    const gateways = model.networks[lender]!.up ? (model.attached.gateways.get(lender) ?? []) : []
    const live = gateways.filter((gateway) => gateway.kind === 'private' && gateway.up)
    return rangeSetOf(live.flatMap((gateway) => gatewayRanges(model.estate, gateway.id)))
  },
  { same: sameRanges },
)

/** The first peering by id between two networks that is up, or null. */
export function peeringBetween(model: Model, a: number, b: number): PeeringModel | null {
  return model.attached.peerings.get(a)?.find((p) => p.up && otherSide(p, a) === b) ?? null
}

/** The peering by which `user` uses the gateways of `lender`, or null. */
export function lendingPeering(model: Model, user: number, lender: number): PeeringModel | null {
  const lends = (p: PeeringModel): boolean => {
    const [own, other] = p.a.network === user ? [p.a, p.b] : [p.b, p.a]
    return p.up && other.network === lender && own.usesPeerGateway && other.lendsGateway
  }
  return model.attached.peerings.get(user)?.find(lends) ?? null
}
