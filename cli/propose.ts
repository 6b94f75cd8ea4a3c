import {
  isRefusal,
  proposalJson,
  proposalsFor,
  proposalsForQuestion,
  proverOf,
  rowText,
  trace,
  type Finding,
  type Proposal,
  type Prover,
  type Question,
} from '@salt-trail/core'
import { FINE, FOUND, refuse, REFUSED } from './exit-status'
import { estateOrComplain } from './read-files'

export interface ProposeFlags {
  readonly finding?: string
  readonly from?: string
  readonly to?: string
  readonly protocol: string
  readonly port?: number
  readonly sourcePort?: number
  readonly json?: boolean
}

/** `salt-trail propose FILE…`: what would mend a finding, a faulty question, or all findings. */
export function propose(names: readonly string[], flags: ProposeFlags): number {
  if ((flags.from === undefined) !== (flags.to === undefined))
    return refuse('a question needs both --from and --to')
  if (flags.from !== undefined && flags.finding !== undefined)
    return refuse('propose mends either a finding (--finding) or a question (--from, --to)')
  const estate = estateOrComplain(names)
  if (!estate) return REFUSED
  const prover = proverOf(estate)
  if (flags.from !== undefined && flags.to !== undefined)
    return proposeForQuestion(prover, questionOf(flags), flags)
  const asked =
    flags.finding === undefined
      ? prover.findings
      : prover.findings.filter(({ fingerprint }) => fingerprint === flags.finding)
  if (flags.finding !== undefined && asked.length === 0)
    return refuse(`there is no finding ${flags.finding}; check --format json names them all`)
  return flags.finding === undefined
    ? proposeForAll(prover, asked, flags)
    : print(prover, proposalsFor(prover, asked[0]!), flags)
}

const questionOf = ({ from, to, protocol, port, sourcePort }: ProposeFlags): Question => ({
  from: from!,
  to: to!,
  protocol,
  port: port ?? null,
  sourcePort: sourcePort ?? null,
})

function proposeForQuestion(prover: Prover, question: Question, flags: ProposeFlags): number {
  const answer = trace(prover.model, question, { evidence: false })
  if (isRefusal(answer)) return refuse(answer.message)
  if (answer.verdict === 'works') {
    process.stdout.write(
      flags.json ? '{ "proposals": [] }\n' : 'It works: there is nothing to mend.\n',
    )
    return FINE
  }
  return print(prover, proposalsForQuestion(prover, question), flags)
}

/** The best proposal of every finding. */
function proposeForAll(prover: Prover, findings: readonly Finding[], flags: ProposeFlags): number {
  const best = findings.flatMap((finding) => {
    const [first] = proposalsFor(prover, finding, { trials: 12, proposals: 1 })
    return first ? [{ finding, first }] : []
  })
  if (flags.json) {
    const proposals = best.map(({ finding, first }) => ({
      finding: finding.fingerprint,
      ...proposalJson(prover, first),
    }))
    process.stdout.write(`${JSON.stringify({ proposals }, null, 2)}\n`)
  } else
    for (const { finding, first } of best)
      process.stdout.write(
        `${finding.severity} ${finding.code} ${finding.anchor}\n${proposalText(prover, first)}`,
      )
  return best.length > 0 ? FOUND : FINE
}

function print(prover: Prover, proposals: readonly Proposal[], { json }: ProposeFlags): number {
  if (json) {
    const told = proposals.map((one) => proposalJson(prover, one))
    process.stdout.write(`${JSON.stringify({ proposals: told }, null, 2)}\n`)
  } else if (proposals.length === 0)
    process.stdout.write('No change of the estate that was tried reaches it.\n')
  else for (const one of proposals) process.stdout.write(proposalText(prover, one))
  return FOUND
}

/** A proposal as people read it: what it does, what it costs, and what follows. */
function proposalText({ model }: Prover, proposal: Proposal): string {
  const { what, harms, harmless, rows, findings, after, blanks = [] } = proposal
  const pair = { before: model, after }
  const count = (kind: (typeof rows)[number]['kind']): number =>
    rows.filter((row) => row.kind === kind).length
  return [
    `  ${harmless ? 'Harmless' : 'With harm'}: ${what}.`,
    ...blanks.map(({ wants, path }) => `    To choose: ${wants} at ${path}`),
    ...harms.slice(0, 6).map(({ text }) => `    ${text}`),
    `    Findings: −${findings.went.length}, +${findings.came.length}; opens ${count('opened')}, cuts ${count('cut')}`,
    ...rows
      .filter(({ kind }) => kind === 'opened')
      .slice(0, 3)
      .map((row) => `    opens ${rowText(pair, row)}`),
    '',
  ].join('\n')
}
