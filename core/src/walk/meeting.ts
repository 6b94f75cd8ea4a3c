/**
 * Equal-cost paths that meet again. A row of twenty forwarders, each reached by two routes of equal
 * cost, has a million paths and forty places: where two paths enter the same place with everything
 * the same that steers what follows, what follows is walked once.
 *
 * Of the paths that meet, each part is still told: the path that comes second ends as the first one
 * did, with its own stations before the meeting. So the branches of a walk are as many as its
 * joints, they name every station and every end, and not every combination of them.
 *
 * What came before the meeting can matter afterwards in one respect: an answer is known to the
 * stateful rules of the interfaces its flow passed. Places that one path passed and the other did
 * not are `forgotten`; where an answer asks one of them, the flow is walked again with that place
 * kept apart (`trace/walk-flow.ts`), until no answer asks what was forgotten. The result is exact.
 *
 * The idea is that of a search over a directed graph with a closed list; a place is closed once all
 * that follows it has ended.
 */
import { placeKey, type Place } from '../rules/place'
import { outcomeRank } from './causes'
import type { State, Walked } from './state'
import { changed } from './next-state'
import { placeOf } from './visited'

/** A place with all that follows it, as the walks of a list. */
interface Closed {
  readonly state: State
  readonly from: number
  to: number | null
}

/** What a branching walk has entered so far. */
export interface Meetings {
  /**
   * What followed an earlier state that is steered alike, for a state below which `pending` others
   * wait; null where there is none that ended.
   */
  readonly ended: (state: State, walks: readonly Walked[], pending: number) => Walked | null
  /** Notes a state that is entered, which `ended` was asked of before. */
  readonly enter: (state: State, pending: number, walks: readonly Walked[]) => void
  /** Places that one path passed, and another that met it did not. */
  readonly forgotten: ReadonlySet<string>
}

/** No meetings so far; paths that passed different ones of the places kept apart do not meet. */
export function noMeetings(keptApart: ReadonlySet<string>): Meetings {
  const entered = new Map<string, Closed>()
  const open: { readonly closed: Closed; readonly pending: number }[] = []
  const forgotten = new Set<string>()
  // `ended` is asked before `enter`, for the same state.
  let asked = { state: null as State | null, key: null as string | null }
  const keyOf = (state: State): string | null => {
    if (asked.state !== state)
      asked = { state, key: canMeet(state) ? steeringKey(state, keptApart) : null }
    return asked.key
  }
  const close = (pending: number, walks: readonly Walked[]): void => {
    while (open.length > 0 && open.at(-1)!.pending > pending) open.pop()!.closed.to = walks.length
  }
  return {
    forgotten,
    ended: (state, walks, pending) => {
      close(pending, walks)
      const before = entered.get(keyOf(state) ?? '')
      if (before === undefined || before.to === null) return null
      const after = walks.slice(before.from, before.to)
      const met = meet(state, before.state, after)
      if (met) for (const place of differences(before.state, state)) forgotten.add(place)
      return met
    },
    enter: (state, pending, walks) => {
      const key = keyOf(state)
      if (key === null) return
      const closed: Closed = { state, from: walks.length, to: null }
      open.push({ closed, pending })
      if (!entered.has(key)) entered.set(key, closed)
    },
  }
}

/**
 * The end of a path that meets an earlier one: the worst of what followed that; null where there is
 * none, or it hangs on the path.
 */
export function meet(state: State, met: State, after: readonly Walked[]): Walked | null {
  if (after.length === 0 || after.some((one) => isOfItsPath(one, state))) return null
  const worst = after.reduce((a, b) => (outcomeRank(b.outcome) > outcomeRank(a.outcome) ? b : a))
  return joined(state, met, worst)
}

/**
 * Whether an end hangs on the stations before the meeting: a frontend answers along those that its
 * caller came by, and a ring may close at one of them.
 */
const isOfItsPath = (end: Walked, { legs }: State): boolean =>
  end.outcome === 'looped' || end.state.legs.length > legs.length

/** The end of an earlier path, for one that meets it: its own stations up to where they met. */
function joined(state: State, met: State, end: Walked): Walked {
  const { stations, passed, allowedByEstate } = end.state
  return {
    ...end,
    like: end.like ?? end,
    state: changed(end.state, {
      stations: [...state.stations, ...stations.slice(met.stations.length)],
      passed: [...state.passed, ...passed.slice(met.passed.length)],
      allowedByEstate: [
        ...state.allowedByEstate,
        ...allowedByEstate.slice(met.allowedByEstate.length),
      ],
    }),
  }
}

/** Whether paths may meet here: a look-up and the hop after it are those of the place before. */
export const canMeet = ({ next }: State): boolean => next.at !== 'hop' && next.at !== 'send'

function differences(a: State, b: State): string[] {
  const [one, other] = [new Set(a.passed.map(placeKey)), new Set(b.passed.map(placeKey))]
  return [...one, ...other].filter((place) => !(one.has(place) && other.has(place)))
}

/** A header by what was translated: all paths of a walk have the same of what was not. */
function headerOf({ packet, fields }: Pick<State, 'packet' | 'fields'>): string {
  const field = (name: keyof State['fields']): string => fields[name] ?? `=${packet[name]}`
  return `${field('src')} ${field('dst')} ${field('srcPort')} ${field('dstPort')}`
}

/** Everything of a state that steers what follows it. */
export function steeringKey(state: State, keptApart: ReadonlySet<string>): string {
  const { faults, assumed, stations } = state
  const kept = (places: readonly Place[]): string =>
    keptApart.size === 0
      ? ''
      : places
          .map(placeKey)
          .filter((place) => keptApart.has(place))
          .sort()
          .join()
  const translations = (list: State['translations']): string =>
    list.map(({ by, kind, before, after }) => `${by} ${kind} ${before} ${after}`).join()
  return [
    placeOf(state),
    headerOf(state),
    stations.length,
    state.leavesBy,
    state.seenAs.join(),
    translations(state.translations),
    translations(state.toUndo),
    state.legs.map(({ stations }) => stations.map(({ at }) => at).join(' ')).join(),
    state.firewalls.map((pass) => `${pass.ref} ${pass.endpoint} ${headerOf(pass)}`).join(),
    kept(state.passed),
    kept(state.allowedByEstate),
    faults.map(({ code, object, station }) => `${code} ${object} ${station}`).join(),
    assumed.map(({ what, station }) => `${what} ${station}`).join(),
  ].join('|')
}
