import {
  compile,
  countProblems,
  findAll,
  isRefusal,
  problemsJson,
  proposalJson,
  proposalsFor,
  proverOf,
  rootCauseJson,
  rootCauses,
  type Question,
  type RootCause,
  SEVERITIES,
  type ProposalJson,
  trace,
  type ExpectationResult,
  type Finding,
  type Model,
  type Problem,
  type Severity,
} from '@salt-trail/core'
import { FINE, FOUND, REFUSED } from './exit-status'
import { junit } from './junit'
import { writeObject } from './write-object'
import { progressOnStderr } from './progress'
import { problemLine, readEstateFiles } from './read-files'
import { sarif } from './sarif'

export const CHECK_FORMATS = ['text', 'json', 'sarif', 'junit'] as const

/** What the text is in the order of: root causes or single findings. */
export const CHECK_GROUPINGS = ['root', 'finding'] as const

export interface CheckFlags {
  readonly format: (typeof CHECK_FORMATS)[number]
  readonly by: (typeof CHECK_GROUPINGS)[number]
  readonly expectations?: string
  readonly failOn?: Severity
  /** Whether mends are found, each tried against the whole estate: it has its price. */
  readonly mends?: boolean
}

/**
 * `salt-trail check`: every error and warning of the files, every finding, and what became of the
 * expectations.
 */
export function check(names: readonly string[], flags: CheckFlags): number {
  const { estate, problems, locate } = readEstateFiles([
    ...names,
    ...(flags.expectations === undefined ? [] : [flags.expectations]),
  ])
  const model = estate && compile(estate)
  const { findings, expectations } = (model && findAll(model, undefined, progressOnStderr())) ?? {
    findings: [],
    expectations: [],
  }
  const causes = model ? rootCauses(model, findings) : []
  if (flags.format === 'text') {
    for (const problem of problems) process.stderr.write(`${problemLine(problem)}\n`)
    const mended = model ? withMends(model, findings, flags) : []
    if (flags.by === 'root') printRootCauses(causes, mended)
    else for (const one of mended) printFinding(one)
    printExpectations(expectations)
    printCounts(problems, causes, findings, expectations)
  } else if (flags.format === 'json') {
    const told = {
      ...problemsJson(problems),
      rootCauses: causes.map(rootCauseJson),
      findings: model === null ? [] : withEvidence(model, findings, flags),
      expectations: expectations.map(expectationJson),
    }
    writeObject(told, (text) => process.stdout.write(text))
  } else if (flags.format === 'sarif')
    process.stdout.write(
      `${JSON.stringify(sarif(problems, findings, expectations, locate), null, 2)}\n`,
    )
  else process.stdout.write(junit(problems, findings, expectations))
  if (estate === null) return REFUSED
  const counted =
    flags.failOn === undefined
      ? SEVERITIES
      : SEVERITIES.slice(0, SEVERITIES.indexOf(flags.failOn) + 1)
  const found =
    findings.some((one) => counted.includes(one.severity)) ||
    expectations.some((one) => one.state === 'broken')
  return found || (flags.failOn === undefined && problems.length > 0) ? FOUND : FINE
}

/** Each finding with its first proposal where mends are wanted, else without one. */
function withMends(model: Model, findings: readonly Finding[], { mends }: CheckFlags): Mended[] {
  if (!mends) return findings.map((one) => ({ ...one, mend: null }))
  const prover = proverOf(model.estate)
  return findings.map((one) => {
    const [first] = proposalsFor(prover, one, { trials: 12, proposals: 1 })
    return { ...one, mend: first ? proposalJson(prover, first) : null }
  })
}

type Mended = Omit<Finding, 'mend'> & { readonly mend: ProposalJson | null }

/**
 * Each finding with its mend and the trace that shows it, one by one: traces of all at once would
 * fill the memory. Of several branches the trace has the worst, which is what the finding says.
 */
function* withEvidence(
  model: Model,
  findings: readonly Finding[],
  flags: CheckFlags,
): Iterable<object> {
  // Findings that stand together often ask the same: what a way passes, each in its own words.
  let asked = ''
  let shown: object | null = null
  for (const one of withMends(model, findings, flags)) {
    const { question } = one.evidence
    const now = JSON.stringify(question)
    if (now !== asked) shown = question && worstBranch(model, question)
    asked = now
    yield { ...one, evidence: { ...one.evidence, trace: shown } }
  }
}

function worstBranch(model: Model, question: Question): object | null {
  const answer = trace(model, question, { evidence: false })
  return isRefusal(answer) ? null : { ...answer, branches: [] }
}

const expectationJson = ({
  id,
  must,
  state,
  sentence,
  from,
  to,
  packet,
  because,
  trace: shown,
}: ExpectationResult): object => ({
  id,
  must,
  state,
  sentence,
  ...(state === 'broken' ? { from, to, packet, because, trace: shown } : {}),
})

/** Root causes, the gravest first, each with its findings; their mends where they are wanted. */
function printRootCauses(causes: readonly RootCause[], mended: readonly Mended[]): void {
  const byFingerprint = new Map(mended.map((one) => [one.fingerprint, one]))
  for (const cause of causes) {
    const { severity, sentence, roots, findings, subnets, hosts, concerns, unlike } = cause
    process.stdout.write(`${severity.padEnd(8)} ${sentence}\n`)
    const touches = [
      count(findings, 'finding'),
      ...(subnets > 0 ? [count(subnets, 'subnet')] : []),
      ...(hosts > 0 ? [count(hosts, 'host')] : []),
    ]
    const what = concerns.length > 0 ? `; ${concerns.join(', ')}` : ''
    process.stdout.write(`         ${touches.join(', ')}${what}\n`)
    if (unlike.length > 0)
      process.stdout.write(`         unlike their likes: ${unlike.join('; ')}\n`)
    const all = roots.flatMap((one) => one.findings)
    for (const { fingerprint, code, anchor, sentence } of all.slice(0, MOST_LISTED)) {
      if (all.length > 1)
        process.stdout.write(`         ${code.padEnd(26)} ${anchor}\n           ${sentence}\n`)
      else process.stdout.write(`         ${code.padEnd(26)} ${anchor}\n`)
      printMend(byFingerprint.get(fingerprint)?.mend ?? null)
    }
    const more = all.length - MOST_LISTED
    if (more > 0)
      process.stdout.write(`         and ${count(more, 'finding')} more (--by finding lists all)\n`)
  }
}

/** So many findings of a root cause are listed under it. */
const MOST_LISTED = 5

function printFinding({ severity, code, anchor, sentence, mend }: Mended): void {
  process.stdout.write(`${severity.padEnd(8)} ${code.padEnd(26)} ${anchor}\n         ${sentence}\n`)
  printMend(mend)
}

function printMend(mend: ProposalJson | null): void {
  if (mend !== null)
    process.stdout.write(`         To mend${mend.harmless ? '' : ', with harm'}: ${mend.what}.\n`)
}

function printExpectations(expectations: readonly ExpectationResult[]): void {
  for (const { id, must, state, sentence, packet, because } of expectations) {
    process.stdout.write(
      `${state.padEnd(8)} ${must.padEnd(26)} expectations/${id}\n         ${sentence}\n`,
    )
    if (packet)
      process.stdout.write(
        `         ${packet.src} to ${packet.dst}, ${packet.protocol}${packet.dstPort === null ? '' : ` ${packet.dstPort}`}${because === null ? '' : `; ${because}`}\n`,
      )
  }
}

function printCounts(
  problems: readonly Problem[],
  causes: readonly RootCause[],
  findings: readonly Finding[],
  expectations: readonly ExpectationResult[],
): void {
  const { errors, warnings } = problemsJson(problems)
  const broken = expectations.filter((one) => one.state === 'broken').length
  const bySeverity = SEVERITIES.flatMap((severity) => {
    const n = findings.filter((one) => one.severity === severity).length
    return n === 0 ? [] : [`${n} ${severity}`]
  })
  const counts = [count(countProblems(errors), 'error'), count(countProblems(warnings), 'warning')]
  if (errors.length === 0)
    counts.push(
      count(causes.length, 'root cause'),
      `${count(findings.length, 'finding')}${bySeverity.length > 0 ? ` (${bySeverity.join(', ')})` : ''}`,
    )
  if (expectations.length > 0)
    counts.push(`${broken} of ${count(expectations.length, 'expectation')} broken`)
  process.stderr.write(`${counts.join(', ')}\n`)
}

const count = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`
