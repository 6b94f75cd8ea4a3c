import type { Finding } from '../findings/finding'
import { mendOf, trialOf } from '../findings/mending'
import type { Mend } from '../mend/mend'
import { remove } from '../mend/recipes/removal'
import type { Model } from '../model/model'
import type { Question } from '../trace/question'
import { waysToClose } from './closing'
import { dropOnPurpose } from './dropping'
import { waysToInspect } from './inspecting'
import { refuseInVain } from './refusing'
import { waysToAnswerName, waysToService } from './services'
import { joined, waysToLead } from './leading'
import { keepInternetOut, waysToKeepClosed } from './keeping-closed'
import type { Prover, Tried } from './prover'
import { waysToTranslate } from './translators'
import { purposeOfFinding, purposeOfQuestion, type Purpose } from './purpose'

/** A change that was tried against the whole estate, with what it costs. */
export interface Proposal extends Tried {
  readonly harmless: boolean
  /** How many findings of a root cause it is for, where it is for one as a whole. */
  readonly mends?: number
}

/**
 * How many changes are tried for one finding or question, and how many proposals are given. Where
 * none of them is harmless, twelve more are tried at most: the least harmful three in full and with
 * what they open denied in two ways each, and three last ways.
 */
export interface ProposalLimits {
  readonly trials: number
  readonly proposals: number
  /** Asked before each trial and within it: once it says true, what was found so far is given. */
  readonly stop?: () => boolean
}

export const USUAL_LIMITS: ProposalLimits = { trials: 16, proposals: 3 }

/**
 * Proposals for a finding, best first: those that do no harm, smallest first; if there are none,
 * the least harmful one. Costs a trial for each change until enough harmless ones are found.
 */
export const proposalsFor = (
  prover: Prover,
  finding: Finding,
  limits: ProposalLimits = USUAL_LIMITS,
): Proposal[] =>
  tryAll(prover, purposeOfFinding(prover.model, finding), waysFor(prover.model, finding), limits)

/** The same for a question that is answered with a fault. */
export const proposalsForQuestion = (
  prover: Prover,
  question: Question,
  limits: ProposalLimits = USUAL_LIMITS,
): Proposal[] =>
  tryAll(
    prover,
    purposeOfQuestion(prover.model, question),
    waysToLead(prover.model, question),
    limits,
  )

/** The changes that are tried for a finding, before any is widened. Costs traces for each. */
export function* waysFor(model: Model, finding: Finding): Generator<Mend> {
  const purpose = purposeOfFinding(model, finding)
  const first = mendOf(model, finding)
  const trial = trialOf(finding)
  if (purpose.kind === 'inspects') yield* waysToInspect(model, finding, purpose.ends)
  if (purpose.kind === 'inspects' && finding.evidence.question !== null)
    yield* waysToLead(model, finding.evidence.question, { attempts: 40, depth: 3, results: 6 })
  if (finding.code === 'hole-nat-without-way-out') yield* waysToTranslate(model, finding)
  // A blackhole is led as its trace is, so that both have the same proposals.
  const isLed = purpose.kind === 'leads' && trial !== null && !trial.stops
  if (isLed) yield* waysToLead(model, trial.question)
  if (first) yield first
  if (finding.code === 'leak-service-by-internet') yield* waysToService(model, finding)
  if (finding.code === 'leak-name-public') yield* waysToAnswerName(model, finding)
  if (purpose.kind === 'closes') yield* waysToClose(model, finding)
}

/**
 * What is tried where nothing else is harmless: a rule of the estate that keeps the internet out,
 * the translator, by which nothing works, taken out, a route to `drop` for what is lost by another,
 * or a rule that refuses what is never answered.
 */
function lastWays(model: Model, purpose: Purpose): readonly Mend[] {
  const { finding } = purpose
  const id = finding?.anchor.slice(finding.anchor.indexOf('/') + 1) ?? ''
  const ways =
    finding?.code === 'open-to-internet' && finding.anchor.startsWith('interfaces/')
      ? [keepInternetOut(model, id)]
      : finding?.code === 'hole-nat-without-way-out'
        ? [remove(model, 'nats', id)]
        : [...dropOnPurpose(model, purpose), ...refuseInVain(model, purpose)]
  return ways.filter((one) => one !== null)
}

/** Of how many changes that only open too much the rest is denied, the least harmful first. */
const MOST_KEPT_CLOSED = 3
/** How often a change that does harm is widened to what mends the harm too. */
const MOST_WIDENED = 3

interface Candidate {
  readonly way: Mend
  readonly widened: number
}

function tryAll(
  prover: Prover,
  purpose: Purpose,
  ways: Iterable<Mend>,
  { trials, proposals, stop = () => false }: ProposalLimits,
): Proposal[] {
  const harmless: Proposal[] = []
  const harmful: (Proposal & { readonly widened: number })[] = []
  const known = new Set<string>()
  let tried = 0
  const attempt = ({ way, widened }: Candidate): void => {
    const text = JSON.stringify(way.changes)
    if (known.has(text)) return
    known.add(text)
    tried++
    const made = prover.attempt([purpose], way, { quick: true, stop })
    if (made === null) return
    if (made.harms.length === 0) {
      const isSame = harmless.some(({ leaves }) => leaves === made.leaves)
      if (!isSame) harmless.push({ ...made, harmless: true })
    } else harmful.push({ ...made, harmless: false, widened })
  }
  for (const way of ways) {
    if (tried >= trials / 2 || harmless.length >= proposals || stop()) break
    attempt({ way, widened: 0 })
  }
  for (const open = [...harmful]; harmless.length === 0 && tried < trials && open.length > 0;) {
    open.sort((a, b) => weight(a) - weight(b))
    const next = open.shift()!
    if (next.widened >= MOST_WIDENED) continue
    for (const way of widerThan(next)) {
      if (tried >= trials || harmless.length > 0 || stop()) break
      const before = harmful.length
      attempt({ way, widened: next.widened + 1 })
      open.push(...harmful.slice(before))
    }
  }
  for (const one of [...harmful].sort((a, b) => weight(a) - weight(b)).slice(0, MOST_KEPT_CLOSED)) {
    if (harmless.length > 0 || stop()) break
    if (!one.harms.every(({ kind }) => kind === 'opened' || kind === 'finding')) continue
    const whole = prover.attempt([purpose], one, { stop })
    if (whole === null) continue
    for (const way of waysToKeepClosed(prover.model, whole))
      if (harmless.length === 0) attempt({ way, widened: MOST_WIDENED })
  }
  const isLast = harmless.length === 0
  for (const way of lastWays(prover.model, purpose))
    if (harmless.length === 0 && !stop()) attempt({ way, widened: MOST_WIDENED })
  harmless.sort((a, b) => rank(a) - rank(b))
  harmful.sort((a, b) => weight(a) - weight(b))
  if (!isLast) return harmless
  // What it costs is told in full; beside a last way, too, since that leads nowhere.
  const least = harmful.slice(0, 1).flatMap((one): Proposal[] => {
    const whole = prover.attempt([purpose], one)
    return whole === null ? [] : [{ ...whole, harmless: false }]
  })
  return [...harmless, ...least].slice(0, proposals)
}

/** A wider change: with what mends the first of its harms too, such as the other direction. */
function* widerThan(proposal: Proposal): Generator<Mend> {
  const question = proposal.harms.find((one) => one.question !== null)?.question
  if (!question) return
  const effort = { attempts: 16, depth: 2, results: 3 }
  for (const more of waysToLead(proposal.after, question, effort)) yield joined([proposal, more])
}

/** How bad a harmful change is: what is cut and no longer inspected first, then what comes. */
const weight = ({ harms }: Tried): number =>
  harms.reduce((sum, { kind }) => sum + (kind === 'cut' || kind === 'passedBy' ? 10 : 3), 0)

/**
 * Harmless ones with nothing left to choose first, then those that alter fewer packets, bring
 * fewer findings and change less.
 */
const rank = ({ blanks, rows, changes, findings: { came, went } }: Tried): number =>
  (blanks?.length ?? 0) * 1000 + rows.length * 4 + came.length * 2 + changes.length - went.length
