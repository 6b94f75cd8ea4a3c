/**
 * An order in which a change can be carried out, step by step. An order is gapless if after every
 * step the estate is valid, everything that works in both states works, nothing works that works in
 * neither, and nothing that both inspect goes uninspected (design part 9.4).
 *
 * Steps are searched depth first, in the usual order: what comes, what differs, what goes. Example:
 * a new NAT is added before the route that leads to it, and the old one goes after that route.
 */
import { apply, complete, type Change } from '../changes/index'
import { budgetOf } from '../consequences/budget'
import type { Pair } from '../consequences/ends'
import type { DifferenceKind } from '../consequences/fate'
import { packetRowsJson, type PacketRowJson } from '../consequences/json'
import { inOrder } from '../consequences/order'
import { packetsAmong, type PacketDifferences } from '../consequences/packets'
import { candidatesOf } from '../consequences/reach'
import { rowsMeet } from './meeting-rows'
import { tellPackets, type ToldPackets } from '../consequences/told'
import { rowText } from '../consequences/words'
import { isValid } from '../format/check'
import type { Estate } from '../format/estate'
import { waysOf, type Ways } from '../hops/ways'
import { compile } from '../model/compile'
import type { Model } from '../model/model'
import { atomsOf, type Atom } from './atoms'

export interface PlanStep {
  readonly what: string
  readonly changes: Change
  /** What works, and does not work, from this step on, against the step before. */
  readonly opened: readonly PacketRowJson[]
  readonly cut: readonly PacketRowJson[]
  /** The same as it is read. */
  readonly told: ToldPackets
  /** What is lost or open after this step and in neither end, in words; empty without a gap. */
  readonly gap: readonly string[]
}

export interface Plan {
  readonly steps: readonly PlanStep[]
  readonly gapless: boolean
  /** Packets were left out of a comparison, or the search was ended: an order may exist. */
  readonly complete: boolean
}

/** So many states are compared with both ends before the search for a gapless order ends. */
const MOST_STATES = 200

interface State {
  readonly model: Model
  readonly ways: Ways
}

interface Ends {
  readonly before: State
  readonly after: State
}

/** The gap of a state between two others: what works in both and not here, and the other way. */
interface Judged {
  readonly gap: readonly string[]
  readonly complete: boolean
}

/**
 * Plans how one state becomes another. Both are valid; the plan ends with the later state, but for
 * the order of objects. Costs, for each state that is tried, the packets that differ from both
 * ends; once `stop` says true, no further order is searched.
 */
export function planOf(before: Estate, after: Estate, stop: () => boolean = () => false): Plan {
  const first = stateOf(compile(before))
  const ends: Ends = { before: first, after: stateOf(compile(after, first.model)) }
  const atoms = atomsOf(before, after)
  const known = new Map<string, Judged>()
  let tried = 0
  let isComplete = true
  let isEnded = false
  const judged = (done: ReadonlySet<number>, state: State): Judged | null => {
    const key = [...done].sort((a, b) => a - b).join()
    const held = known.get(key)
    if (held) return held
    if (++tried > MOST_STATES || stop()) {
      isEnded = true
      return null
    }
    const made = judge(ends, state)
    isComplete &&= made.complete
    known.set(key, made)
    return made
  }
  const order = search(atoms, first, judged) ?? null
  if (order === null && isEnded) isComplete = false
  const steps = stepsOf(
    first,
    (order ?? usualOrder(atoms, before)).map((at) => atoms[at]!),
    ends,
  )
  return { steps, gapless: steps.every(({ gap }) => gap.length === 0), complete: isComplete }
}

const stateOf = (model: Model): State => ({ model, ways: waysOf(model) })

/** The state after an atom; null where it cannot be made or leaves an invalid estate. */
function after({ model }: State, atom: Atom): State | null {
  const made = apply(model.estate, complete(model.estate, atom.change))
  return made.ok && isValid(made.estate, model.estate) ? stateOf(compile(made.estate, model)) : null
}

/** A gapless order of the atoms by their numbers; null where none is found. */
function search(
  atoms: readonly Atom[],
  start: State,
  judged: (done: ReadonlySet<number>, state: State) => Judged | null,
): number[] | null {
  const dead = new Set<string>()
  const go = (done: readonly number[], state: State): number[] | null => {
    if (done.length === atoms.length) return [...done]
    const set = new Set(done)
    for (const [at, atom] of atoms.entries()) {
      if (set.has(at)) continue
      const key = [...done, at].sort((a, b) => a - b).join()
      if (dead.has(key)) continue
      const next = after(state, atom)
      const verdict = next && judged(new Set([...done, at]), next)
      const found = next && verdict?.gap.length === 0 ? go([...done, at], next) : null
      if (found) return found
      dead.add(key)
    }
    return null
  }
  return go([], start)
}

/** The first order in which every state is valid, without regard to gaps. */
function usualOrder(atoms: readonly Atom[], before: Estate): number[] {
  const order: number[] = []
  let state = stateOf(compile(before))
  for (let left = atoms.map((_, at) => at); left.length > 0;) {
    const next = left.flatMap((at) => {
      const made = after(state, atoms[at]!)
      return made ? [{ at, made }] : []
    })[0]
    // Where no single atom leaves a valid estate, the rest is carried out in its usual order.
    if (!next) return [...order, ...left]
    order.push(next.at)
    state = next.made
    left = left.filter((at) => at !== next.at)
  }
  return order
}

/** The steps of an order, each with what it opens and cuts at that moment. */
function stepsOf(first: State, atoms: readonly Atom[], ends: Ends): PlanStep[] {
  let state = first
  return atoms.map(({ what, change }): PlanStep => {
    const changes = complete(state.model.estate, change)
    const made = apply(state.model.estate, changes)
    const next = made.ok ? stateOf(compile(made.estate, state.model)) : state
    const packets = difference(state, next)
    const told = tellPackets({ before: state.model, after: next.model }, packets)
    const { rows } = packets
    const of = (kind: DifferenceKind): PacketRowJson[] =>
      inOrder(rows.filter((row) => row.kind === kind)).flatMap(packetRowsJson)
    const { gap } = judge(ends, next)
    state = next
    return { what, changes, opened: of('opened'), cut: of('cut'), told, gap }
  })
}

function difference(from: State, to: State): PacketDifferences {
  const pair = { before: from.model, after: to.model }
  const candidates = candidatesOf(pair, { before: from.ways, after: to.ways })
  return packetsAmong(pair, candidates, budgetOf(50_000))
}

/** What of a state between two others is in neither of them. */
function judge({ before, after: last }: Ends, state: State): Judged {
  const [one, other] = [difference(before, state), difference(last, state)]
  const pair: Pair = { before: before.model, after: state.model }
  const inBoth = (kind: DifferenceKind, verb: string): string[] =>
    one.rows
      .filter((row) => row.kind === kind)
      .filter((row) => other.rows.some((also) => also.kind === kind && rowsMeet(row, also)))
      .map((row) => `${verb} ${rowText(pair, row)}`)
  return {
    gap: [
      ...inBoth('cut', 'cuts'),
      ...inBoth('opened', 'opens'),
      ...inBoth('passedBy', 'no longer inspected:'),
    ],
    complete: one.leftOut.length === 0 && other.leftOut.length === 0,
  }
}
