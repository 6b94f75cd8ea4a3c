/**
 * A walk whose branches go on side by side, one step each in turn.
 *
 * The outcomes of routes are found for one destination after the other, and walks that differ only
 * behind their last door go on from there. Where branches of equal cost lead to that door, each
 * must have met the others before the door is passed; else all of them would have to go on to it
 * again. So a branch that enters a place which another one entered is linked to it at once, and
 * gets its end when all of them have ended. Branches, ends and their order are those of `walk`
 * (`engine.ts`); where a link cannot be kept, `walk` is made instead.
 */
import type { Address } from '../address/address'
import { cached } from '../incremental/cells'
import { boxWith } from '../packet/packet-set'
import { MAX_BRANCHES, take, UNWATCHED_STEPS, walk } from './engine'
import { canMeet, meet, steeringKey } from './meeting'
import type { Scope } from './fields'
import { statesTowards } from './towards'
import { isWalked, type State, type Walked, type WalkContext } from './state'

/** A walk under way: states in the order in which they came up, each of whose parts is by place. */
export interface Abreast {
  readonly states: readonly State[]
  /** The place of the state that each came from; −1 for the first. */
  readonly parents: readonly number[]
  /** How many steps led to each. */
  readonly steps: readonly number[]
  /** How each ended, or the place of the one that it met; undefined for those that went on. */
  readonly ends: readonly (Walked | number | undefined)[]
  /** The states that were entered once branches had parted, by what steers them. */
  readonly entered: ReadonlyMap<string, number>
  /** The next one to take a step; those behind it wait. */
  readonly next: number
  /** Whether visits are noted. */
  readonly watched: boolean
  /** The ends of walks that went on from here, by what they came to. */
  readonly known: Map<string, readonly Walked[] | null>
}

/**
 * A walk at the moment before a step that put a condition to the destination: what it is for
 * other destinations up to there. A walk to one of them goes on from here, in place of being walked
 * from its start; a long way whose last door tells public from private space is walked once.
 */
export interface Parting {
  /** The packets for which everything up to here was the same. */
  readonly box: Scope['box']
  readonly run: Abreast
}

/** The latest of some partings from which a walk to a destination may go on, if there is one. */
export function partingFor(trail: readonly Parting[], dst: Address): Parting | undefined {
  for (let at = trail.length - 1; at >= 0; at--) {
    const { from, to } = trail[at]!.box.dst
    if (from <= dst && dst <= to) return trail[at]
  }
  return undefined
}

/**
 * A walk of more states is made by `walk`: all states are kept until it ends, each with the
 * stations up to it, and its ends are found by as many calls inside one another as it has steps.
 */
const MOST_STATES = 1000

const beginning = (start: State, watched: boolean): Abreast => ({
  states: [start],
  parents: [-1],
  steps: [0],
  ends: [undefined],
  entered: new Map(),
  next: 0,
  watched,
  known: new Map(),
})

/**
 * All ends of a walk, as `walk` finds them; where it put conditions to the destination is noted in
 * `trail`.
 */
export function walkAbreast(
  context: WalkContext,
  start: State,
  trail: Parting[],
): readonly Walked[] {
  for (const watched of [false, true]) {
    const ends = goOn(context, beginning(start, watched), trail)
    if (ends) return ends
    // What was noted on the way is of the walk that is given up.
    trail.splice(0)
  }
  return walk(context, start).walks
}

/**
 * Follows a packet to another destination from a parting of an earlier walk, whose box holds it;
 * null where that walk would have to be begun again another way.
 */
export function resume(
  context: WalkContext,
  { run }: Parting,
  dst: Address,
  trail: Parting[],
): readonly Walked[] | null {
  const waiting = run.states.slice(run.next)
  const states = [...run.states.slice(0, run.next), ...statesTowards(waiting, dst)]
  return goOn(context, { ...run, states }, trail)
}

function goOn(context: WalkContext, run: Abreast, trail: Parting[]): readonly Walked[] | null {
  const { watched } = run
  const [states, parents, steps] = [[...run.states], [...run.parents], [...run.steps]]
  const ends = [...run.ends]
  const entered = new Map(run.entered)
  const nowhere: ReadonlySet<string> = new Set()
  const scope = context.scope!
  for (let at = run.next; at < states.length; at++) {
    if (ends[at] !== undefined) continue
    const state = states[at]!
    const taken = steps[at]! + 1
    const isTooLong = !watched && taken > UNWATCHED_STEPS
    if (isTooLong || states.length - at > MAX_BRANCHES || states.length > MOST_STATES) return null
    const haveParted = states.length > taken
    if (haveParted && canMeet(state)) {
      const key = steeringKey(state, nowhere)
      const met = entered.get(key)
      if (met !== undefined && met !== at) {
        ends[at] = met
        continue
      }
      entered.set(key, at)
    }
    const box = boxWith(scope.box, {})
    const step = take(context, state, watched)
    const { dst } = scope.box
    const isParting = dst.from !== box.dst.from || dst.to !== box.dst.to
    // A walk that goes on from a parting has it behind itself.
    if (isParting && (at > run.next || at === 0))
      trail.push({
        box,
        run: {
          states: [...states],
          parents: [...parents],
          steps: [...steps],
          ends: [...ends],
          entered: new Map(entered),
          next: at,
          watched,
          known: new Map(),
        },
      })
    for (const item of step) {
      parents.push(at)
      steps.push(taken)
      states.push(isWalked(item) ? item.state : item)
      ends.push(isWalked(item) ? item : undefined)
    }
  }
  const walked = { states, parents, ends }
  return cached(run.known, cameTo(walked, run.next), () => endsOf(walked))
}

/**
 * What a walk came to from a state on, but for the address it went to: all that outcomes of routes
 * are made of. Walks to many destinations come to the same.
 */
function cameTo({ states, parents, ends }: Entered, from: number): string {
  const parts: string[] = []
  for (let at = from; at < states.length; at++) {
    const { stations, leavesBy, seenAs, pendingNat, fields, packet } = states[at]!
    const end = ends[at]
    const before = parents[at]! < 0 ? 0 : states[parents[at]!]!.stations.length
    const passed = stations.slice(before).map((one) => `${one.kind} ${one.at}`)
    const src = fields.src === null ? packet.src : ''
    parts.push(
      `${parents[at]} ${passed.join()} ${leavesBy} ${seenAs.join()} ${pendingNat} ${fields.src} ${src}`,
      typeof end === 'object' ? endText(end) : `${end}`,
    )
  }
  return parts.join('|')
}

function endText({ outcome, cause, deliveredAt }: Walked): string {
  const inner = cause?.inner && `${cause.inner.code} ${cause.inner.object}`
  return `${outcome} ${cause?.code} ${cause?.object} ${inner} ${JSON.stringify(deliveredAt)}`
}

/** Every state of a walk that has ended, and how. */
type Entered = Pick<Abreast, 'states' | 'parents' | 'ends'>

/** The ends of all branches, the first branch first; null where a link cannot be kept. */
function endsOf({ states, parents, ends }: Entered): readonly Walked[] | null {
  const children = states.map((): number[] => [])
  for (let at = 1; at < parents.length; at++) children[parents[at]!]!.push(at)
  const out: Walked[] = []
  /** Where the ends behind a state begin and end in the list, once all of them are in it. */
  const known: ([from: number, to: number] | undefined)[] = []
  /** Adds the ends behind a state; false where a link cannot be kept. */
  const add = (at: number): boolean => {
    const end = ends[at]
    if (typeof end === 'object') {
      out.push(end)
      return true
    }
    const from = out.length
    if (end === undefined) {
      for (const child of children[at]!) if (!add(child)) return false
    } else {
      // A branch comes before the one it met only where that one took fewer steps to the place.
      const closed = known[end]
      const met = closed && meet(states[at]!, states[end]!, out.slice(...closed))
      if (!met) return false
      out.push(met)
    }
    known[at] = [from, out.length]
    return true
  }
  return add(0) && out.length <= MAX_BRANCHES ? out : null
}
