import { formatAddress } from '../../address/address'
import { prefixOf } from '../../address/prefix'
import type { GatewayModel } from '../../model/model'
import { standInAddress } from '../public-address'
import { fact, type FactsEvidence } from '../facts'
import {
  arrive,
  finish,
  leaveBy,
  lose,
  type State,
  type Step,
  type WalkContext,
  type Said,
} from '../state'
import { crossPeering, lendingPeering } from './peering'
import { consultIngress } from './come-in'
import { inPrefixes, isPublicHere, noteForPublic, isValue, longestHere, noteFor } from '../scope'
import { arriveAtAsker, undoLatest } from '../undo'

/** Out by a private gateway that is up: to its site, or through it to the internet. */
export function leaveByPrivateGateway(
  context: WalkContext,
  state: State,
  gateway: GatewayModel,
): Step {
  const { model } = context
  const { src, dst } = state.packet
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
  const evidence = (): FactsEvidence => ({
    facts: [
      fact('it is up', gateway.id, true),
      has
        ? fact(
            `${gateway.site} has the destination`,
            `${formatAddress(dst)}, of ${site.ranges!.join(', ')}`,
            true,
          )
        : fact(
            'its site has the destination, or leads on to the internet',
            leadsOn ? 'it leads on' : `${formatAddress(dst)}: neither`,
            leadsOn,
          ),
    ],
  })
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
  if (leadsOn) {
    const through = leaveBy(
      arrive(context, atGateway(`to ${gateway.site}`), {
        at: ref,
        kind: 'site',
        decision: 'leads on to the internet',
      }),
      ref,
    )
    if (typeof src !== 'number' || isPublicHere(src, noteForPublic(context, state, 'src')))
      return [{ ...through, next: { at: 'outside' } }]
    if (context.answers) {
      // Only what its flow did is undone in an answer, and the flow did not come in this way.
      return lose(context, through, 'answer-from-other-address', gateway.ref, {
        what: 'the answer has a public address',
        then: (s) => [
          {
            ...s,
            packet: { ...s.packet, src: context.answers!.asked.address },
            fields: { ...s.fields, src: context.answers!.asked.addressField },
            next: { at: 'outside' },
          },
        ],
      })
    }
    const after = standInAddress(model)
    return [
      {
        ...through,
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
      },
    ]
  }
  const what =
    site === undefined ? 'leads to no site' : `${gateway.site} does not have ${formatAddress(dst)}`
  return lose(context, atGateway(what), 'site-does-not-have-it', gateway.ref, {
    what: `${gateway.site ?? 'its site'} has it`,
    then: (s) => deliverOutside(context, s, ref),
  })
}

/** The packet is where it was to go, outside the estate's networks; for an answer that is the asker, with all translations undone. */
export function deliverOutside(context: WalkContext, state: State, ref: string): Step {
  const { answers } = context
  if (answers && (answers.asker.in !== 'outside' || answers.asker.ref !== ref))
    return lose(context, state, 'answer-to-other-host', ref)
  return answers ? arriveAtAsker(context, state, ref) : [finish(state, { in: 'outside', ref })]
}

/** From a site into the cloud: by each private gateway that announces the longest prefix round the destination. */
export function comeFromSite(context: WalkContext, given: State, site: string): Step {
  const { model } = context
  const ref = `sites/${site}`
  const latest = given.toUndo[0]
  // An answer to what left through the site's own internet connection.
  const state =
    latest?.by === ref && isValue(given.packet.dst, latest.after, noteFor(context, given, 'dst'))
      ? undoLatest(given)
      : given
  const { dst } = state.packet
  const note = noteFor(context, state, 'dst')
  const announcing = (model.entrances.get(site) ?? []).map((entrance) => ({
    ...entrance,
    length: longestHere(entrance.announces, dst, note)[0] ?? -1,
  }))
  const longest = Math.max(0, ...announcing.map((one) => one.length))
  const ways = announcing.filter((one) => one.length === longest)
  if (ways.length === 0) {
    const lost = arrive(context, state, {
      at: ref,
      kind: 'lookup',
      decision: () => `no gateway announces ${formatAddress(dst)} to it`,
    })
    return lose(
      context,
      lost,
      context.answers ? 'site-has-no-route-back' : 'site-has-no-route',
      ref,
    )
  }
  return ways.flatMap(({ gateway: number, transit, users }): Step => {
    const gateway = model.gateways[number]!
    const evidence = (): FactsEvidence => ({
      facts: announcing.map((one) =>
        fact(
          `${model.gateways[one.gateway]!.id} announces it`,
          one.length < 0 ? 'no' : `in a /${one.length}`,
          one.length === longest,
        ),
      ),
    })
    const entered = arrive(context, state, {
      at: gateway.ref,
      kind: 'gateway',
      decision: () => `comes in from ${site}`,
      evidence,
    })
    if (transit !== null)
      return [
        {
          ...entered,
          next: { at: 'transit', transit: transit.index, attachment: transit.attachment },
        },
      ]
    return consultIngress(context, entered, gateway, (s) =>
      handInside(context, s, gateway.network, users),
    )
  })
}

/** Inside: the gateway's own network, or a peered one that uses this gateway. */
function handInside(
  context: WalkContext,
  state: State,
  network: number,
  users: readonly number[],
): Step {
  const { model } = context
  const { dst } = state.packet
  const has = (index: number): boolean =>
    inPrefixes(model.networks[index]!.ranges, dst, noteFor(context, state, 'dst'))
  const user = has(network) ? undefined : users.find(has)
  const peering = user === undefined ? null : lendingPeering(model, user, network)
  if (user === undefined || peering === null)
    return [{ ...state, next: { at: 'local', network, fromSubnet: -1 } }]
  return crossPeering(context, state, peering, network, 'lent', (s) => [
    { ...s, next: { at: 'local', network: user, fromSubnet: -1 } },
  ])
}
