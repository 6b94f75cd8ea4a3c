import { intersectRanges, type RangeSet } from '../address/ranges'
import type { Model } from '../model/model'
import { budgetOf, type Budget } from './budget'
import { destinationsAskedBy, isOnInternet, pairSenders } from './ends'
import { differencesOf, type Fate } from './fate'
import { lastOf } from '../flows/steps'
import { eachPairedFlow, type PairedFlow } from './pairs'
import type { Pair, PairedSender } from './ends'
import { joinRows, rowsOfBox, type Row, type RowNote } from './rows'

/** Every packet that differs between two states of an estate, as rows. */
export interface PacketDifferences {
  readonly rows: readonly Row[]
  /** Why packets were left out, where the budget did not last; empty where nothing was. */
  readonly leftOut: readonly string[]
}

/** A sender with the destinations that a change may matter to, found when they are asked for. */
export interface Candidate {
  readonly sender: PairedSender
  readonly destinations: () => RangeSet
}

/** Every sender with every destination: what a change can reach must come to the same. */
export function allCandidates(pair: Pair): readonly Candidate[] {
  const asks = destinationsAskedBy(pair)
  return pairSenders(pair).map((sender) => ({ sender, destinations: () => asks(sender) }))
}

export interface PacketOptions {
  /** Rows also say why packets are lost after the change, and which firewalls they pass then. */
  readonly forTrial?: boolean
  /** Asked of each row before rows are joined: once it says true, no more packets are walked. */
  readonly enough?: (row: Row) => boolean
}

/**
 * The packets from some senders to some destinations that are opened, cut, passed by a firewall,
 * inspected by another, or led to another host. Exact for what is asked. Costs two walks for each
 * box of packets that fare alike, up to the budget.
 */
export function packetsAmong(
  pair: Pair,
  candidates: readonly Candidate[],
  budget: Budget = budgetOf(),
  options: PacketOptions = {},
): PacketDifferences {
  return lastOf(packetsInTurns(pair, candidates, budget, options))
}

/** So many ranges of destinations are asked of a sender in one turn. */
const RANGES_A_TURN = 128

/** The same in turns, between which others may come first: each asks a part of what one sends. */
export function* packetsInTurns(
  pair: Pair,
  candidates: readonly Candidate[],
  budget: Budget,
  { forTrial = false, enough }: PacketOptions = {},
): Generator<void, PacketDifferences, void> {
  const rows: Row[] = []
  const leftOut = new Set<string>()
  const leave = (sender: PairedSender): void => {
    for (const name of namesOf(sender)) leftOut.add(name)
  }
  let isEnough = false
  const takeFlow = (flow: PairedFlow): boolean => {
    for (const { kind, partly } of differencesOf(flow.before, flow.after))
      for (const row of rowsOfFlow(pair, flow, { kind, partly, forTrial })) {
        rows.push(row)
        isEnough ||= enough?.(row) ?? false
      }
    return isEnough
  }
  for (const { sender, destinations } of candidates) {
    if (isEnough) break
    if (budget.isUsedUp()) {
      leave(sender)
      continue
    }
    const asked = destinations()
    for (let at = 0; at < asked.length && !isEnough; at += RANGES_A_TURN) {
      const part = asked.slice(at, at + RANGES_A_TURN)
      const left = eachPairedFlow(pair, sender, part, budget, takeFlow, { causes: forTrial })
      if (left.length > 0) leave(sender)
      yield
    }
  }
  return { rows: joinRows(rows), leftOut: [...leftOut] }
}

const namesOf = ({ name, members }: PairedSender): readonly string[] =>
  members?.map((one) => one.name) ?? [name]

function rowsOfFlow(
  pair: Pair,
  { sender, box, before, after }: PairedFlow,
  { kind, partly, forTrial }: Pick<RowNote, 'kind' | 'partly'> & { readonly forTrial: boolean },
): Row[] {
  const to = kind === 'cut' ? before.to : after.to
  // An address that the estate had, or takes, is the internet's in the other state.
  if (isOnInternet(sender.name) && to.length > 0 && to.every(isOnInternet)) return []
  const passed = ({
    there,
    back,
  }: Fate): { there: readonly string[]; back: readonly string[] } => ({
    there,
    back,
  })
  const note: RowNote = {
    kind,
    partly,
    failed: kind === 'cut' && hasFailed(pair, sender, before),
    firewalls:
      kind === 'passedBy' || kind === 'inspected'
        ? { before: passed(before), after: passed(after) }
        : null,
    trial: forTrial ? { lost: after.lost, after: passed(after) } : null,
    hosts: kind === 'elsewhere' ? { before: before.hosts, after: after.hosts } : null,
  }
  const { members } = sender
  if (!members) return rowsOfBox(box, sender.name, to, note)
  return members.flatMap(({ name, both }) =>
    intersectRanges(both, [box.src]).flatMap((src) => rowsOfBox({ ...box, src }, name, to, note)),
  )
}

/** Whether the sender, or a host packets ended at, is down after the change and was up before. */
const hasFailed = ({ before, after }: Pair, sender: PairedSender, fate: Fate): boolean =>
  (sender.before !== null && sender.before.up && sender.after?.up === false) ||
  fate.hosts.some((ref) => isUp(before, ref) === true && isUp(after, ref) === false)

/** Whether an interface is up; undefined for anything else, and for one that is not there. */
function isUp(model: Model, ref: string): boolean | undefined {
  const index = model.index.interfaces.get(ref.slice('interfaces/'.length))
  if (!ref.startsWith('interfaces/') || index === undefined) return undefined
  const one = model.interfaces[index]!
  return one.up && model.subnets[one.subnet]?.up === true
}
