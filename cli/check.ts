import {
  compile,
  findAll,
  isRefusal,
  mendOf,
  problemsJson,
  SEVERITIES,
  trialOf,
  trace,
  type ExpectationResult,
  type Finding,
  type Model,
  type Problem,
  type Severity,
} from '@salt-trail/core'
import { FINE, FOUND, REFUSED } from './exit-status'
import { junit } from './junit'
import { progressOnStderr } from './progress'
import { problemLine, readEstateFiles } from './read-files'
import { sarif } from './sarif'

export const CHECK_FORMATS = ['text', 'json', 'sarif', 'junit'] as const

export interface CheckFlags {
  readonly format: (typeof CHECK_FORMATS)[number]
  readonly expectations?: string
  readonly failOn?: Severity
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
  if (flags.format === 'text')
    printText(problems, model ? withMends(model, findings) : [], expectations)
  else if (flags.format === 'json') {
    const all = model === null ? [] : withEvidence(model, findings)
    process.stdout.write(
      `${JSON.stringify({ ...problemsJson(problems), findings: all, expectations: expectations.map(expectationJson) }, null, 2)}\n`,
    )
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

/** At most this many mends are found by trying; findings beyond have none. */
const MOST_TRIED = 200

/** Each finding with its mend: the one its check names, or the one that trying finds. */
function withMends(model: Model, findings: readonly Finding[]): Finding[] {
  let tried = 0
  return findings.map((one) =>
    trialOf(one) !== null && tried++ < MOST_TRIED ? { ...one, mend: mendOf(model, one) } : one,
  )
}

/** Each finding with its mend and the trace that shows it. */
const withEvidence = (model: Model, findings: readonly Finding[]): object[] =>
  withMends(model, findings).map((one) => {
    const { question } = one.evidence
    const shown = question === null ? null : trace(model, question, { evidence: false })
    const evidence = { ...one.evidence, trace: shown === null || isRefusal(shown) ? null : shown }
    return { ...one, evidence }
  })

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

function printText(
  problems: readonly Problem[],
  findings: readonly Finding[],
  expectations: readonly ExpectationResult[],
): void {
  for (const problem of problems) process.stderr.write(`${problemLine(problem)}\n`)
  for (const { severity, code, anchor, sentence, mend } of findings) {
    process.stdout.write(
      `${severity.padEnd(8)} ${code.padEnd(26)} ${anchor}\n         ${sentence}\n${mend === null ? '' : `         To mend: ${mend.what}.\n`}`,
    )
  }
  for (const { id, must, state, sentence, packet, because } of expectations) {
    process.stdout.write(
      `${state.padEnd(8)} ${must.padEnd(26)} expectations/${id}\n         ${sentence}\n`,
    )
    if (packet)
      process.stdout.write(
        `         ${packet.src} to ${packet.dst}, ${packet.protocol}${packet.dstPort === null ? '' : ` ${packet.dstPort}`}${because === null ? '' : `; ${because}`}\n`,
      )
  }
  const { errors, warnings } = problemsJson(problems)
  const broken = expectations.filter((one) => one.state === 'broken').length
  const bySeverity = SEVERITIES.flatMap((severity) => {
    const n = findings.filter((one) => one.severity === severity).length
    return n === 0 ? [] : [`${n} ${severity}`]
  })
  const counts = [count(errors.length, 'error'), count(warnings.length, 'warning')]
  if (errors.length === 0)
    counts.push(
      `${count(findings.length, 'finding')}${bySeverity.length > 0 ? ` (${bySeverity.join(', ')})` : ''}`,
    )
  if (expectations.length > 0)
    counts.push(`${broken} of ${count(expectations.length, 'expectation')} broken`)
  process.stderr.write(`${counts.join(', ')}\n`)
}

const count = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`
