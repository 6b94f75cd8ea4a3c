import type { Packet } from '../packet/packet'
import { changed, finish, lose } from './next-state'
import {
  isWalked,
  type Next,
  type State,
  type Station,
  type Step,
  type Walked,
  type WalkContext,
} from './state'

import { deliverLocally } from './steps/local'
import { enterNat } from './steps/nat'
import { comeFromService } from './steps/endpoint'
import { reachForwarder } from './steps/forwarder'
import { followHop } from './next-hops/registry'
import { goOutside } from './steps/outside'
import { send } from './steps/send'
import { comeFromSite } from './steps/site'
import { enterTransit } from './steps/transit'
import { OWN_FIELDS } from './fields'
import { noMeetings, type Meetings } from './meeting'
import { sameVisit, visitOf } from './visited'

/** More branches than this are not followed one by one; the walk then says so. */
export const MAX_BRANCHES = 256

/** A packet before its first step. */
export function startState(
  packet: Packet,
  next: Next,
  toUndo: State['toUndo'] = [],
  fields: State['fields'] = OWN_FIELDS,
): State {
  return {
    next,
    packet,
    fields,
    stations: [],
    leavesBy: null,
    seenAs: [],
    translations: [],
    legs: [],
    toUndo,
    allowedByEstate: [],
    passed: [],
    firewalls: [],
    pendingNat: -1,
    faults: [],
    assumed: [],
    visited: null,
  }
}

/**
 * No path without a loop is expected to have so many steps. A longer walk is begun again with its
 * visits noted.
 */
export const UNWATCHED_STEPS = 24

/**
 * Follows a packet to its end, or to each of its ends where equal-cost routes part. Every walk
 * ends: a packet that enters the same place twice with the same header is looped, and there are
 * only finitely many headers it can be given. Most walks are short, so visits are noted only for
 * long ones.
 */
export const walk = (context: WalkContext, start: State): Walks =>
  follow(context, start, false) ?? follow(context, start, true)!

/** The branches of a walk. */
export interface Walks {
  readonly walks: readonly Walked[]
  /** There were more branches than are followed. */
  readonly truncated: boolean
  /** Places that not all paths passed which met afterwards (`meeting.ts`). */
  readonly forgotten: ReadonlySet<string>
}

const NOWHERE: ReadonlySet<string> = new Set()

/** All branches of a walk; null where visits are not noted and it grows too long. */
function follow(context: WalkContext, start: State, watched: boolean): Walks | null {
  const walks: Walked[] = []
  const pending = [start]
  const steps = [0]
  let truncated = false
  let meetings: Meetings | null = null
  while (pending.length > 0) {
    const state = pending.pop()!
    const taken = steps.pop()! + 1
    if (!watched && taken > UNWATCHED_STEPS) return null
    const met = meetings?.ended(state, walks, pending.length)
    if (met) {
      walks.push(met)
      continue
    }
    meetings?.enter(state, pending.length, walks)
    const goOn: State[] = []
    for (const item of take(context, state, watched)) {
      if (isWalked(item)) walks.push(item)
      else goOn.push(item)
    }
    if (goOn.length > 1) meetings ??= noMeetings(context.keptApart ?? NOWHERE)
    const room = Math.max(MAX_BRANCHES - walks.length - pending.length, 1)
    if (goOn.length > room) truncated = true
    // Reversed, so that the first branch is followed first.
    for (let at = Math.min(goOn.length, room) - 1; at >= 0; at--) {
      pending.push(goOn[at]!)
      steps.push(taken)
    }
  }
  return { walks, truncated, forgotten: meetings?.forgotten ?? NOWHERE }
}

/** What names a loop: the first element in it that packets pass, else the first place. */
function ringOf(stations: readonly Station[]): string {
  const passed = stations.find((station) => station.kind !== 'lookup' && station.kind !== 'rules')
  return (passed ?? stations[0])?.at ?? ''
}

/** One step of a walk; `watched` where the places it enters are noted. */
export function take(context: WalkContext, before: State, watched: boolean): Step {
  const earlier = watched ? sameVisit(context, before) : undefined
  if (earlier) {
    if (before.faults.length > 0) return [finish(before, null)]
    return lose(context, before, 'looped', ringOf(before.stations.slice(earlier.stations)))
  }
  const state = watched
    ? changed(before, { visited: { latest: visitOf(before), before: before.visited } })
    : before
  const { next } = state
  switch (next.at) {
    case 'send':
      return send(context, state, next.sender)
    case 'hop':
      return followHop(context, state, next.from, next.route)
    case 'nat':
      return enterNat(context, state, next.nat, next.fromSubnet)
    case 'local':
      return deliverLocally(context, state, next.network, next.fromSubnet)
    case 'outside':
      return goOutside(context, state)
    case 'forwarder':
      return reachForwarder(context, state, next.interface, next.fromSubnet)
    case 'site':
      return comeFromSite(context, state, next.site)
    case 'transit':
      if (context.pausesAtTransits)
        return [
          finish(state, {
            in: 'transit',
            transit: next.transit,
            attachment: next.attachment,
            ref: context.model.transits[next.transit]!.ref,
          }),
        ]
      return enterTransit(context, state, next.transit, next.attachment)
    case 'service':
      return comeFromService(context, state, next.by, next.network)
  }
}
