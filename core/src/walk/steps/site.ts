import { formatAddress } from '../../address/address'
import { fact, type FactsEvidence } from '../facts'
import { changed, arrive, lose } from '../next-state'
import type { State, Step, WalkContext } from '../state'
import { crossPeering, lendingPeering } from './peering'
import { consultIngress } from './come-in'
import { inPrefixes, isValue, longestHere, noteFor } from '../scope'
import { undoLatest } from '../undo'

/**
 * From a site into the cloud: by each private gateway that announces the longest prefix round the
 * destination.
 */
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
        changed(entered, {
          next: { at: 'transit', transit: transit.index, attachment: transit.attachment },
        }),
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
    return [changed(state, { next: { at: 'local', network, fromSubnet: -1 } })]
  return crossPeering(context, state, peering, network, 'lent', (s) => [
    changed(s, { next: { at: 'local', network: user, fromSubnet: -1 } }),
  ])
}
