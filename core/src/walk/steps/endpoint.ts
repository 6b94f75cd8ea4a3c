import { formatAddress, type Address } from '../../address/address'
import { containsAddress, prefixOf } from '../../address/prefix'
import type { EstateObject } from '../../format/estate'
import type { Model } from '../../model/model'
import { inPrefixes, noteFor } from '../scope'
import { fact, type FactsEvidence } from '../facts'
import { changed, arrive, finish, leaveBy, lose, type Said } from '../next-state'
import type { State, Step, WalkContext } from '../state'

/**
 * Through a routed endpoint that is up and of this network, to the provider's service behind it.
 */
export function enterEndpoint(
  context: WalkContext,
  state: State,
  id: string,
  network: number,
  subnet: number,
): Step {
  const { model } = context
  const endpoint = model.estate.endpoints.get(id)!
  const ref = `endpoints/${id}`
  const region = model.networks[network]!.region ?? model.subnets[subnet]?.region ?? null
  const evidence = (): FactsEvidence => endpointFacts(model, endpoint, state.packet.dst, region)
  const at = (decision: Said): State =>
    arrive(context, state, { at: ref, kind: 'endpoint', decision, evidence })
  const service = model.estate.services.get(endpoint.service)
  const reach = (s: State): Step => reachService(context, s, endpoint.service, ref, network)
  const { dst } = state.packet
  const covered =
    endpoint.style === 'routed' &&
    inPrefixes((service?.ranges ?? []).map(prefixOf), dst, noteFor(context, state, 'dst'))
  if (!covered)
    return lose(
      context,
      at(() => `${formatAddress(dst)} is not in ${endpoint.service}`),
      'wrong-service',
      ref,
    )
  if (service?.region !== undefined && region !== null && service.region !== region) {
    return lose(
      context,
      at(() => `${endpoint.service} is in ${service.region}, not in ${region}`),
      'service-other-region',
      ref,
      {
        what: 'it leads to that region',
        then: reach,
      },
    )
  }
  return reach(at(() => `to ${endpoint.service}`))
}

/** What is looked at when a packet comes to an endpoint from a place in a region. */
function endpointFacts(
  { estate }: Model,
  { service, network }: EstateObject<'endpoints'>,
  dst: Address,
  region: string | null,
): FactsEvidence {
  const { ranges = [], region: far } = estate.services.get(service) ?? {}
  const has = ranges.some((text) => containsAddress(prefixOf(text), dst))
  return {
    facts: [
      fact('it is up and of this network', network ?? 'none', true),
      fact(
        `the destination is in ${service}`,
        `${formatAddress(dst)}, of ${ranges.join(', ') || 'none'}`,
        has,
      ),
      ...(far === undefined
        ? []
        : [fact('the service is in this region', far, region === null || region === far)]),
    ],
  }
}

/** By the subnet's own switch to a service. */
export function switchToService(
  context: WalkContext,
  state: State,
  id: string,
  network: number,
): Step {
  const switched = arrive(context, state, {
    at: 'service-switch',
    kind: 'endpoint',
    decision: () => `to ${id}`,
  })
  return reachService(context, switched, id, 'service-switch', network)
}

/** Arrives at a provider's service by an endpoint or a switch. */
export function reachService(
  context: WalkContext,
  state: State,
  service: string,
  by: string,
  network: number,
): Step {
  const ref = `services/${service}`
  // Out of a public NAT a packet must leave by a door to the internet.
  if (state.pendingNat >= 0)
    return lose(context, state, 'private-destination', by.includes('/') ? by : ref)
  const there = arrive(context, state, {
    at: ref,
    kind: 'delivery',
    decision: context.answers
      ? 'the answer arrives'
      : `arrives at ${formatAddress(state.packet.dst)}`,
  })
  if (context.answers) return lose(context, there, 'answer-to-other-host', ref)
  return [finish(leaveBy(there, by), { in: 'outside', ref, back: { at: 'service', by, network } })]
}

/** A service answers through what led to it, straight to the network. */
export function comeFromService(
  context: WalkContext,
  state: State,
  by: string,
  network: number,
): Step {
  const back = arrive(context, state, {
    at: by,
    kind: 'endpoint',
    decision: 'hands the answer back',
  })
  return [changed(back, { next: { at: 'local', network, fromSubnet: -1 } })]
}
