import { formatAddress, type Address } from '../../address/address'
import { prefixOf } from '../../address/prefix'
import type { GatewayModel } from '../../model/model'
import { type FactsEvidence, fact } from '../facts'
import { standInAddress } from '../public-address'
import { noteFor, inPrefixes, isPublicHere, noteForPublic } from '../scope'
import { changed, type Said, arrive, lose, leaveBy, finish } from '../next-state'
import type { WalkContext, State, Step } from '../state'
import { arriveAtAsker } from '../undo'

/** Out by a private gateway that is up: to its site, or through it to the internet. */
export function leaveByPrivateGateway(
  context: WalkContext,
  state: State,
  gateway: GatewayModel,
): Step {
  const { model } = context
  const { dst } = state.packet
  const site = gateway.site === null ? undefined : model.estate.sites.get(gateway.site)
  const ref = `sites/${gateway.site}`
  const note = noteFor(context, state, 'dst')
  const has =
    site !== undefined &&
    (site.state ?? 'up') === 'up' &&
    inPrefixes((site.ranges ?? []).map(prefixOf), dst, note)
  const leadsOn =
    site?.internet === true &&
    (site.state ?? 'up') === 'up' &&
    isPublicHere(dst, noteForPublic(context, state, 'dst'))
  const evidence = (): FactsEvidence => siteFacts(gateway, dst, has ? site.ranges! : null, leadsOn)
  const atGateway = (decision: Said): State =>
    arrive(context, state, { at: gateway.ref, kind: 'gateway', decision, evidence })
  // Out of a public NAT a packet must leave by a door to the internet.
  if (state.pendingNat >= 0)
    return lose(
      context,
      atGateway('leads to a site, not to the internet'),
      'private-destination',
      gateway.ref,
    )
  if (has) {
    const there = arrive(context, leaveBy(atGateway(`to ${gateway.site}`), gateway.ref), {
      at: ref,
      kind: 'delivery',
      decision: context.answers ? 'the answer arrives' : `arrives at ${formatAddress(dst)}`,
    })
    return deliverOutside(context, there, ref)
  }
  if (leadsOn) return leaveThroughSite(context, atGateway(`to ${gateway.site}`), gateway)
  const what =
    site === undefined ? 'leads to no site' : `${gateway.site} does not have ${formatAddress(dst)}`
  return lose(context, atGateway(what), 'site-does-not-have-it', gateway.ref, {
    what: `${gateway.site ?? 'its site'} has it`,
    then: (s) => deliverOutside(context, s, ref),
  })
}

/** What is looked at when a packet comes to a gateway to its site. */
const siteFacts = (
  { id, site }: GatewayModel,
  dst: Address,
  ranges: readonly string[] | null,
  leadsOn: boolean,
): FactsEvidence => ({
  facts: [
    fact('it is up', id, true),
    ranges !== null
      ? fact(`${site} has the destination`, `${formatAddress(dst)}, of ${ranges.join(', ')}`, true)
      : fact(
          'its site has the destination, or leads on to the internet',
          leadsOn ? 'it leads on' : `${formatAddress(dst)}: neither`,
          leadsOn,
        ),
  ],
})

/** On through a site to the internet, where a private source takes an address of the site's. */
function leaveThroughSite(context: WalkContext, state: State, gateway: GatewayModel): Step {
  const { src } = state.packet
  const ref = `sites/${gateway.site}`
  const through = leaveBy(
    arrive(context, state, { at: ref, kind: 'site', decision: 'leads on to the internet' }),
    ref,
  )
  if (typeof src !== 'number' || isPublicHere(src, noteForPublic(context, state, 'src')))
    return [changed(through, { next: { at: 'outside' } })]
  if (context.answers) {
    // Only what its flow did is undone in an answer, and the flow did not come in this way.
    return lose(context, through, 'answer-from-other-address', gateway.ref, {
      what: 'the answer has a public address',
      then: (s) => [
        changed(s, {
          packet: { ...s.packet, src: context.answers!.asked.address },
          fields: { ...s.fields, src: context.answers!.asked.addressField },
          next: { at: 'outside' },
        }),
      ],
    })
  }
  const after = standInAddress(context.model)
  return [
    changed(through, {
      packet: { ...through.packet, src: after },
      fields: { ...through.fields, src: null },
      seenAs: ['unpredictable'],
      translations: [
        ...through.translations,
        {
          by: ref,
          kind: 'source',
          before: src,
          after,
          origin: { address: through.fields.src, port: null },
        },
      ],
      next: { at: 'outside' },
    }),
  ]
}

/**
 * The packet is where it was to go, outside the estate's networks; for an answer that is the asker,
 * with all translations undone.
 */
export function deliverOutside(context: WalkContext, state: State, ref: string): Step {
  const { answers } = context
  if (answers && (answers.asker.in !== 'outside' || answers.asker.ref !== ref))
    return lose(context, state, 'answer-to-other-host', ref)
  return answers ? arriveAtAsker(context, state, ref) : [finish(state, { in: 'outside', ref })]
}
