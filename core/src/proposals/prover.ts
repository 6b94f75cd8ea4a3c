import { analyseStanding } from '../analysis/standing'
import { apply } from '../changes/apply'
import { complete } from '../changes/complete'
import { pointerParts } from '../changes/pointer'
import { canonical } from '../compare/compare'
import { waysBetween } from '../compare/routing'
import { splitRef } from '../format/ref'
import { budgetOf } from '../consequences/budget'
import {
  expectationChanges,
  findingChanges,
  type ExpectationChange,
  type FindingChanges,
} from '../consequences/findings'
import { packetsAmong } from '../consequences/packets'
import type { Pair } from '../consequences/ends'
import { candidatesOf } from '../consequences/reach'
import type { Row } from '../consequences/rows'
import type { Finding, ToldFinding } from '../findings/finding'
import { FINDINGS } from '../findings/records'
import { isValid } from '../format/check'
import type { Estate } from '../format/estate'
import type { ExpectationResult } from '../expectations/expectations'
import type { Findings } from '../findings/findings'
import { hopMemo, type HopMemo } from '../hops/hops'
import { waysOf, type Ways } from '../hops/ways'
import type { Mend } from '../mend/mend'
import { compile } from '../model/compile'
import type { Model } from '../model/model'
import { isRefusal } from '../trace/question'
import { trace } from '../trace/trace'
import { harmOfPackets, type Harm } from './harm'
import { isAsGrave, subnetOfEnd, type Purpose } from './purpose'
import { isCopied, stoodBefore } from './stood-before'

/** A change that was tried against the whole estate. */
export interface Tried extends Mend {
  /** What it does beyond what it is for; empty where it does no harm. */
  readonly harms: readonly Harm[]
  readonly rows: readonly Row[]
  readonly findings: FindingChanges
  readonly expectations: readonly ExpectationChange[]
  /**
   * What the change leaves of the objects it touches, as text: changes that leave the same are one.
   */
  readonly leaves: string
  /** The estate after it, with what was found of it. */
  readonly after: Model
  readonly ways: Ways
  readonly all: Findings
  /** Senders whose packets were left out, since the budget did not last. */
  readonly leftOut: readonly string[]
}

/** An estate in which changes are tried: what is known of it is kept between trials. */
export interface Prover {
  readonly model: Model
  readonly memo: HopMemo
  readonly ways: Ways
  readonly findings: readonly Finding[]
  readonly expectations: readonly ExpectationResult[]
  /**
   * Tries a change; null where it cannot be made, leaves an invalid estate, or does not reach all
   * that it is for. What one of its purposes allows is no harm. A quick trial ends with the first packets that are harmed.
   */
  readonly attempt: (purposes: Purposes, mend: Mend, options?: TrialOptions) => Tried | null
}

export interface TrialOptions {
  readonly quick?: boolean
  readonly stop?: () => boolean
}

/** Pairs of walks for one trial. */
const MOST_TRIED = 20_000

/**
 * Makes an estate ready for trials. Costs a standing analysis; each trial costs what its change
 * touches.
 */
export function proverOf(estate: Estate): Prover {
  const standing = analyseStanding(estate, { wantsRouting: true })
  const model = compile(estate)
  const known = hopMemo()
  const { findings, expectations } = standing.standing()
  const before = { model, ways: waysOf(model, known), routing: standing.routing() }
  return {
    model,
    memo: known,
    ways: before.ways,
    findings,
    expectations,
    attempt: (purposes, mend, { quick = false, stop } = {}) => {
      const made = apply(estate, complete(estate, mend.changes))
      if (!made.ok || !isValid(made.estate, estate)) return null
      const after = compile(made.estate, model)
      standing.change(made.estate)
      const now = standing.standing()
      const changes = findingChanges(findings, now.findings)
      if (!purposes.every((one) => isReached(after, one, changes, now.findings))) return null
      const pair = { before: model, after }
      const routing = standing.routing()
      const ways = waysBetween(before, { model: after, ways: waysOf(after), routing })
      const harmOf = (rows: readonly Row[]): readonly Harm[] =>
        harmForAll(pair, purposes, mend, rows)
      const { rows, leftOut } = packetsAmong(
        pair,
        candidatesOf(pair, ways),
        budgetOf(MOST_TRIED, stop),
        { forTrial: true, ...(quick ? { enough: (row) => harmOf([row]).length > 0 } : {}) },
      )
      const flips = expectationChanges(expectations, now.expectations)
      return {
        ...mend,
        harms: [
          ...harmOf(rows),
          ...harmOfGaps(leftOut),
          ...harmsOfBypass(after, purposes),
          ...harmOfFindings(pair, findings, purposes, changes),
          ...harmOfExpectations(flips),
        ],
        rows,
        leaves: leftBy(mend, made.estate),
        findings: changes,
        expectations: flips,
        after,
        ways: ways.after,
        all: now,
        leftOut,
      }
    },
  }
}

/** What a change is for: one thing, or several that it mends at once. */
export type Purposes = readonly [Purpose, ...Purpose[]]

/**
 * The rows of which none of some purposes allows a part, as harm. A row joins ends that alter
 * alike, each of which may be what another purpose is for.
 */
function harmForAll(
  pair: Pair,
  purposes: Purposes,
  mend: Mend,
  rows: readonly Row[],
): readonly Harm[] {
  const [first, ...others] = purposes
  const harm = harmOfPackets(pair, first, mend, rows)
  if (others.length === 0) return harm
  const isHarm = (part: Row): boolean =>
    purposes.every((one) => harmOfPackets(pair, one, mend, [part]).length > 0)
  return harm.filter(({ row }) => !row || pairsOf(row).some(isHarm))
}

/** A row cut into one for each pair of ends. */
const pairsOf = (row: Row): Row[] =>
  [...row.from].flatMap((from) =>
    [...row.to].map((to): Row => ({ ...row, from: new Map([from]), to: new Map([to]) })),
  )

/** What was not compared may be harmed, so a trial that ended early is no proof. */
const harmOfGaps = (leftOut: readonly string[]): Harm[] =>
  leftOut.length === 0
    ? []
    : [
        {
          kind: 'untried',
          text: `was not tried for packets from ${leftOut.slice(0, 3).join(', ')}${leftOut.length > 3 ? ` and ${leftOut.length - 3} more` : ''}`,
          question: null,
        },
      ]

const harmOfExpectations = (flips: readonly ExpectationChange[]): Harm[] =>
  flips
    .filter(({ before, after }) => before === 'holds' && after !== 'holds')
    .map(({ id }) => ({
      kind: 'expectation',
      text: `breaks the expectation ${id}`,
      question: null,
    }))

/** The same of several purposes, each firewall told once. */
function harmsOfBypass(after: Model, purposes: Purposes): readonly Harm[] {
  const harms = purposes.flatMap((one) => harmOfBypass(after, one))
  return harms.filter(({ text }, at) => harms.findIndex((one) => one.text === text) === at)
}

/** A mend of a firewall's finding by which packets go past it is told as what it is. */
function harmOfBypass(after: Model, { kind, question, firewalls }: Purpose): Harm[] {
  if (kind !== 'inspects' || question === null || firewalls.size === 0) return []
  const answer = trace(after, question, { evidence: false })
  if (isRefusal(answer) || answer.verdict !== 'works') return []
  const passes = (stations: readonly { readonly at: string }[] | undefined): boolean =>
    stations?.some(({ at }) => firewalls.has(at)) ?? false
  if (passes(answer.forward.stations) && passes(answer.return?.stations)) return []
  const names = [...firewalls].map((ref) => ref.slice('firewalls/'.length)).join(', ')
  return [{ kind: 'passedBy', text: `no longer inspected by ${names}`, question: null }]
}

/** The objects that a change touches, as they are after it. */
function leftBy({ changes }: Mend, estate: Estate): string {
  const touched = new Set(
    changes.map(({ path }) => (pointerParts(path) ?? []).slice(0, 2).join('/')),
  )
  const sections = estate as unknown as Record<string, ReadonlyMap<string, unknown> | undefined>
  return [...touched]
    .sort()
    .map((ref) => {
      const [section, id] = splitRef(ref)
      const held = sections[section]
      return `${ref} ${canonical(held instanceof Map ? held.get(id) : held)}`
    })
    .join('\n')
}

function harmOfFindings(
  pair: Pair,
  known: readonly Finding[],
  purposes: Purposes,
  { came }: FindingChanges,
): Harm[] {
  const { before } = pair
  const meant = new Set(purposes.map(({ finding }) => finding?.fingerprint))
  const stood = [isCopied(pair, known), ...purposes.map((one) => stoodBefore(before, one))]
  return came
    .filter(
      ({ severity, fingerprint }) =>
        !meant.has(fingerprint) && purposes.some((one) => isAsGrave(severity, one.severity)),
    )
    .filter((one) => !stood.some((told) => told(one)))
    .filter((one) => !purposes.some((purpose) => isAnswered(before, purpose, one)))
    .map((one) => ({
      kind: 'finding',
      text: `brings ${one.code}: ${one.sentence}`,
      question: FINDINGS[one.code].family === 'hole' ? one.evidence.question : null,
      finding: one,
    }))
}

/**
 * Whether a finding that comes says that a host is open to the internet, which is what a change is
 * for that brings its subnet's answers back there: its rules let those packets in before.
 */
function isAnswered(model: Model, purpose: Purpose, { code, anchor }: ToldFinding): boolean {
  const { kind, ends, finding } = purpose
  if (kind !== 'leads' || code !== 'open-to-internet' || !ends.begins.has('internet')) return false
  const own = subnetOfEnd(model, `interface:${splitRef(anchor)[1]}`)
  if (finding === null) return ends.ends.has(`subnets/${own}`)
  // A table that is named is that of other subnets, too.
  return [finding.anchor, ...finding.objects].some((ref) => {
    const [section, id] = splitRef(ref)
    return section === 'subnets'
      ? id === own
      : section === 'interfaces' && subnetOfEnd(model, `interface:${id}`) === own
  })
}

/** The finding is gone, or covers less; the question works there and back. */
function isReached(
  after: Model,
  { finding, question, kind }: Purpose,
  { came, went, changed }: FindingChanges,
  now: readonly Finding[],
): boolean {
  if (finding === null) return question !== null && works(after, question)
  if (went.some(({ fingerprint }) => fingerprint === finding.fingerprint)) return true
  if (came.some(({ fingerprint }) => fingerprint === finding.fingerprint)) return false
  const other = changed.find((one) => one.after.fingerprint === finding.fingerprint)
  if (other === undefined || !now.some((one) => one.fingerprint === finding.fingerprint))
    return false
  const [was, is] = [other.before, other.after].map((one) => new Set(one.evidence.ranges))
  const isLess = is!.size < was!.size && [...is!].every((range) => was!.has(range))
  // Where a leak stood, its question worked all along.
  const isHole = FINDINGS[finding.code].family === 'hole'
  return isLess || (kind === 'leads' && isHole && question !== null && works(after, question))
}

function works(model: Model, question: NonNullable<Purpose['question']>): boolean {
  const answer = trace(model, question, { evidence: false })
  return !isRefusal(answer) && answer.verdict === 'works'
}
