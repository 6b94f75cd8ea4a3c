import { LRUCache } from 'lru-cache'
import {
  isRefusal,
  proposalAtOnce,
  proposalsFor,
  proposalsForQuestion,
  proverOf,
  rootCauses,
  tellProposal,
  trace,
  USUAL_LIMITS,
  type Proposal,
  type Prover,
  type Question,
  type Refusal,
  type ToldProposal,
} from '@salt-trail/core'
import { connected } from '../database/connected'
import { readRevision } from '../estates/store'
import { LONG, makeWay } from '../threads/make-way'

makeWay(LONG)

/** What proposals are wanted for: a finding or root cause, by its fingerprint, or a question. */
export type Wanted =
  { readonly finding: string } | { readonly rootCause: string } | { readonly question: Question }

export interface ProposalTask {
  readonly databaseUrl: string
  readonly revisionId: number
  readonly wanted: Wanted
  /** Its one number becomes 1 once whoever asked is gone, so that no more is tried. */
  readonly gone: SharedArrayBuffer
  /** So long changes are tried; then what was found so far is told. */
  readonly seconds: number
}

export type Proposed =
  | {
      readonly proposals: readonly ToldProposal[]
      readonly milliseconds: number
      /** Whether time was over before all was tried. */
      readonly isCut: boolean
    }
  | { readonly refused: Refusal }
  | { readonly unknown: true }

/** What is known of the revisions asked about last, since proposals are asked for one by one. */
const provers = new LRUCache<number, Prover>({ max: 2 })

async function proverFor({ databaseUrl, revisionId }: ProposalTask): Promise<Prover> {
  const known = provers.get(revisionId)
  if (known) return known
  const { estate } = await connected(databaseUrl, (db) => readRevision(db, revisionId))
  const made = proverOf(estate)
  provers.set(revisionId, made)
  return made
}

/**
 * The entry of a worker thread: tries changes against the whole estate, which takes seconds; the
 * server's thread and the one that answers questions stay free.
 */
export default async function propose(task: ProposalTask): Promise<Proposed> {
  const begun = performance.now()
  const gone = new Int32Array(task.gone)
  let isCut = false
  const isOver = (): boolean => performance.now() - begun > task.seconds * 1000
  const stop = (): boolean => Atomics.load(gone, 0) === 1 || (isCut ||= isOver())
  const limits = { ...USUAL_LIMITS, stop }
  const prover = await proverFor(task)
  const tell = (proposals: readonly Proposal[], question: Question | null): Proposed => ({
    proposals: proposals.map((one) => tellProposal(prover, one, question)),
    milliseconds: performance.now() - begun,
    isCut,
  })
  if ('question' in task.wanted) {
    const { question } = task.wanted
    const answer = trace(prover.model, question, { evidence: false })
    if (isRefusal(answer)) return { refused: answer }
    const works = answer.verdict === 'works'
    return tell(works ? [] : proposalsForQuestion(prover, question, limits), question)
  }
  if ('rootCause' in task.wanted) {
    const { rootCause: wanted } = task.wanted
    const cause = rootCauses(prover.model, prover.findings).find(
      ({ fingerprint }) => fingerprint === wanted,
    )
    if (!cause) return { unknown: true }
    const { question } = cause.roots[0]!.findings[0]!.evidence
    const whole = proposalAtOnce(prover, cause, stop)
    return tell(whole === null ? [] : [whole], question)
  }
  const { finding: fingerprint } = task.wanted
  const finding = prover.findings.find((one) => one.fingerprint === fingerprint)
  return finding
    ? tell(proposalsFor(prover, finding, limits), finding.evidence.question)
    : { unknown: true }
}
