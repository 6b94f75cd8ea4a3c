import { compareEstates, type ObjectChange } from '../compare/compare'
import { compareWays, type WayChange } from '../compare/ways'
import { waysInOf, type WaysIn } from '../ways-in/ways-in'
import type { ExpectationResult } from '../expectations/expectations'
import type { Finding } from '../findings/finding'
import { hopMemo, type HopMemo } from '../hops/hops'
import { waysOf, type Ways } from '../hops/ways'
import type { Model } from '../model/model'
import { budgetOf, type Budget } from './budget'
import type { DifferenceKind } from './fate'
import {
  expectationChanges,
  findingChanges,
  type ExpectationChange,
  type FindingChanges,
} from './findings'
import { packetRowsJson, type PacketRowJson } from './json'
import { moneyChange, type MoneyChange } from './money'
import { inOrder } from './order'
import { packetsAmong } from './packets'
import { candidatesOf } from './reach'
import type { Row } from './rows'
import { seenAsChanges, type SeenAsChange } from './seen-as'

/** One state of an estate with what was computed of it. */
export interface AnalysedState {
  readonly model: Model
  readonly memo: HopMemo
  readonly ways: Ways
  readonly findings: readonly Finding[]
  readonly expectations: readonly ExpectationResult[]
}

/** How the ways in of a subnet differ. */
export interface WaysInChange {
  readonly subnet: string
  readonly before: WaysIn | null
  readonly after: WaysIn | null
}

/** Everything a change brings about, as programs read it (design part 9.5). */
export interface ConsequencesJson {
  readonly objects: readonly ObjectChange[]
  readonly ways: readonly WayChange[]
  readonly opened: readonly PacketRowJson[]
  readonly cut: readonly PacketRowJson[]
  readonly passedBy: readonly PacketRowJson[]
  readonly inspected: readonly PacketRowJson[]
  readonly elsewhere: readonly PacketRowJson[]
  readonly waysIn: readonly WaysInChange[]
  readonly findings: FindingChanges
  readonly expectations: readonly ExpectationChange[]
  readonly seenAs: readonly SeenAsChange[]
  readonly money: MoneyChange | null
  /** False where a budget was passed; `leftOut` then says what is missing. */
  readonly complete: boolean
  readonly leftOut: readonly string[]
}

/** The consequences, with the rows as the core has them, for what is said to people. */
export interface Consequences extends ConsequencesJson {
  readonly rows: readonly Row[]
}

/** More subnets than these are not asked for their ways in. */
const MOST_WAYS_IN = 100

/**
 * What differs between two states of an estate: exactly, unless the budget is used up, which is
 * then told. The later model should be compiled from the earlier one, so that equal objects are the
 * same. Costs the next hops of both states, which the memos keep, and two walks for each box of
 * packets that the change can reach.
 */
export function consequencesOf(
  before: AnalysedState,
  after: AnalysedState,
  budget: Budget = budgetOf(),
): Consequences {
  const pair = { before: before.model, after: after.model }
  const memo = { before: before.memo, after: after.memo }
  const known = { before: before.ways, after: after.ways }
  const ways = compareWays(pair.before, pair.after, known)
  const { rows: found, leftOut } = packetsAmong(pair, candidatesOf(pair, known), budget)
  const rows = inOrder(found)
  const of = (kind: DifferenceKind): PacketRowJson[] =>
    rows.filter((row) => row.kind === kind).flatMap(packetRowsJson)
  const subnets = new Set(ways.map(({ subnet }) => subnet.slice('subnets/'.length)))
  const entered = subnetsEntered(pair.after, rows)
  const asked = entered.slice(0, MOST_WAYS_IN)
  return {
    rows,
    objects: compareEstates(pair.before.estate, pair.after.estate),
    ways,
    opened: of('opened'),
    cut: of('cut'),
    passedBy: of('passedBy'),
    inspected: of('inspected'),
    elsewhere: of('elsewhere'),
    waysIn: waysInChanges(pair, asked),
    findings: findingChanges(before.findings, after.findings),
    expectations: expectationChanges(before.expectations, after.expectations),
    seenAs: seenAsChanges(pair, subnets, memo),
    money: moneyChange(pair.before.estate, pair.after.estate),
    complete: leftOut.length === 0 && asked.length === entered.length,
    leftOut: [
      ...(leftOut.length > 0
        ? [`packets from ${leftOut.slice(0, 20).join(', ')}${moreOf(leftOut.length - 20)}`]
        : []),
      ...(asked.length < entered.length
        ? [`ways into ${entered.length - asked.length} of ${entered.length} subnets`]
        : []),
    ],
  }
}

const moreOf = (count: number): string => (count > 0 ? ` and ${count} more` : '')

/** A state of which nothing is known yet but its model. */
export const stateOf = (
  model: Model,
  { findings, expectations }: Pick<AnalysedState, 'findings' | 'expectations'>,
  memo: HopMemo = hopMemo(),
  ways: Ways = waysOf(model, memo),
): AnalysedState => ({ model, memo, ways, findings, expectations })

/** The subnets of hosts at which rows of packets end, by id. */
function subnetsEntered(model: Model, rows: readonly Row[]): string[] {
  const out = new Set<string>()
  for (const row of rows)
    for (const names of row.to.keys())
      for (const name of names.split(' ')) {
        const index = model.index.interfaces.get(name.replace(/^interface:/, ''))
        const subnet = index === undefined ? -1 : model.interfaces[index]!.subnet
        if (name.startsWith('interface:') && subnet >= 0) out.add(model.subnets[subnet]!.id)
      }
  return [...out]
}

function waysInChanges(
  { before, after }: { readonly before: Model; readonly after: Model },
  subnets: readonly string[],
): WaysInChange[] {
  const ask = (model: Model, id: string): WaysIn | null => {
    const index = model.index.subnets.get(id)
    return index === undefined ? null : waysInOf(model, model.subnets[index]!)
  }
  return subnets.flatMap((id) => {
    const [was, is] = [ask(before, id), ask(after, id)]
    return JSON.stringify(was) === JSON.stringify(is)
      ? []
      : [{ subnet: `subnets/${id}`, before: was, after: is }]
  })
}
