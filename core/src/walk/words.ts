import { formatAddress, type Address } from '../address/address'
import { formatPrefix } from '../address/prefix'
import type { Model, RouteModel, SubnetModel } from '../model/model'
import { targetRef } from '../model/targets'
import { targetText } from './next-hops/registry'
import type { Candidate, LookUp, Reason } from '../routes/look-up'

/** Where a route comes from, in words. */
export function originText(route: RouteModel): string {
  if (route.origin === 'built-in') return 'built in'
  return route.origin === 'learned' ? `learned from ${nameOf(route.learnedFrom ?? '')}` : 'table'
}

/** A winning route in words. */
export function routeText(route: RouteModel, winners: number): string {
  const equal = winners > 1 ? `, one of ${winners} of equal cost` : ''
  return `${formatPrefix(route.prefix)} wins (${originText(route)}): ${targetText(route.target)}${equal}`
}

/** A candidate as evidence of a look-up. */
export interface CandidateEvidence {
  readonly to: string
  readonly writtenTo: string | null
  readonly via: string
  readonly target: string | null
  readonly origin: string
  readonly table: string | null
  readonly entry: number | null
  readonly priority: number | null
  readonly outcome: 'won' | 'lost'
  readonly reason: Reason
  readonly sentence: string
}

export interface LookUpEvidence {
  readonly subnet: string
  readonly table: string | null
  readonly tableIs: 'own' | 'default' | 'none'
  readonly address: string
  readonly candidates: readonly CandidateEvidence[]
}

/** The evidence of a look-up: every candidate, and why it won or lost. */
export function lookUpEvidence(
  model: Model,
  subnet: SubnetModel,
  address: Address,
  found: LookUp,
  winner: RouteModel | null,
): LookUpEvidence {
  const network = model.networks[subnet.network]!
  return {
    subnet: subnet.ref,
    table: subnet.table < 0 ? null : model.tables[subnet.table]!.ref,
    tableIs: subnet.table < 0 ? 'none' : subnet.ownTable ? 'own' : 'default',
    address: formatAddress(address),
    candidates: found
      .candidates()
      .map((candidate) =>
        candidateEvidence(model, candidate, network.behaviour === 'priority-routed', winner),
      ),
  }
}

function candidateEvidence(
  model: Model,
  candidate: Candidate,
  priorities: boolean,
  winner: RouteModel | null,
): CandidateEvidence {
  const { route, reason } = candidate
  return {
    to: formatPrefix(route.prefix),
    writtenTo: route.writtenTo,
    via: targetText(route.target),
    target: targetRef(route.target),
    origin: originText(route),
    table: route.table < 0 ? null : model.tables[route.table]!.ref,
    entry: route.entry < 0 ? null : route.entry,
    priority: priorities && route.origin !== 'built-in' ? route.priority : null,
    outcome: reason === 'won' || reason === 'equal-cost' ? 'won' : 'lost',
    reason,
    sentence: reasonText(candidate, route === winner),
  }
}

/** Why a candidate won or lost, in one clause. */
function reasonText({ route, reason, against }: Candidate, followed: boolean): string {
  switch (reason) {
    case 'won':
      return 'won'
    case 'equal-cost':
      return `won with others of equal cost${followed ? '; this branch' : ''}`
    case 'shorter-prefix':
      return `lost: shorter prefix, ${route.prefix.length} against ${against!.prefix.length}`
    case 'later-origin':
      return `lost: same length, ${against!.target.kind === 'service-switch' ? 'nothing overrides the service switch' : `${originText(against!)} comes before ${originText(route)} in this network`}`
    case 'higher-priority-number':
      return `lost: same length, priority ${route.priority} against ${against!.priority}, and lower wins`
    case 'local-excludes':
      return `no candidate: beside the built-in local route to ${formatPrefix(against!.prefix)} only table routes of its length or longer count`
    case 'built-in-stands':
      return `no candidate: in this network nothing overrides the built-in route to ${formatPrefix(against!.prefix)}`
    case 'not-in-force':
      return `no candidate: the route is ${route.state}`
    case 'tag-not-carried':
      return `no candidate: only for hosts tagged ${route.onlyTags!.join(' or ')}`
    case 'next-hop-passed-over':
      return 'passed over: its next hop is not up, and this network then takes the next best route'
    case 'switched':
      return 'lost: the host has no public address, so the subnet’s service switch acts instead'
  }
}

/** The id of an object named `section/id`. */
export const nameOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)
