import {
  compile,
  findAll,
  rowText,
  SEVERITIES,
  shareWith,
  stateOf,
  consequencesOf,
  hopMemo,
  type AnalysedState,
  type ChangeConsequences,
  type Estate,
  type Model,
  type Pair,
  type Severity,
  type WayText,
} from '@salt-trail/core'
import { FINE, FOUND } from './exit-status'
import { progressOnStderr } from './progress'

export interface ConsequenceFlags {
  readonly json?: boolean
  readonly failOn?: Severity
}

/** Prints what differs between two states of an estate; gives the exit status. */
export function printConsequences(
  before: Estate,
  after: Estate,
  flags: ConsequenceFlags,
  leftOut: readonly string[] = [],
): number {
  const model = compile(before)
  const changed = compile(shareWith(before, after), model)
  const found = consequencesOf(analysed(model), analysed(changed))
  const told = {
    ...found,
    complete: found.complete && leftOut.length === 0,
    leftOut: [...found.leftOut, ...leftOut],
  }
  if (flags.json) {
    const { rows: _, ...document } = told
    process.stdout.write(`${JSON.stringify(document, null, 2)}\n`)
  } else process.stdout.write(consequencesText({ before: model, after: changed }, told))
  return isUnwanted(told, flags.failOn) ? FOUND : FINE
}

/** The findings and expectations of a model, with progress where it takes long. */
export function analysed(model: Model): AnalysedState {
  const memo = hopMemo()
  return stateOf(model, findAll(model, memo, progressOnStderr())!, memo)
}

/**
 * Whether something was lost: cut or passed by, an expectation that held, or a finding that came at
 * or above a severity.
 */
export function isUnwanted(
  { cut, passedBy, expectations, findings }: ChangeConsequences,
  failOn: Severity = 'note',
): boolean {
  const counted = SEVERITIES.slice(0, SEVERITIES.indexOf(failOn) + 1)
  return (
    cut.length > 0 ||
    passedBy.length > 0 ||
    expectations.some((one) => one.before === 'holds' && one.after !== 'holds') ||
    findings.came.some((one) => counted.includes(one.severity))
  )
}

const wayText = (way: WayText | null): string =>
  way === null
    ? 'nothing'
    : way.cause
      ? `lost (${way.cause.code} at ${way.cause.object})`
      : way.way.join(' > ') || 'local'

/** More rows of a kind than these are counted only; JSON has all. */
const MOST_SHOWN = 40

/**
 * Consequences as people read them, gravest first: what is cut, passed by, opened, and the rest.
 */
export function consequencesText(pair: Pair, told: ChangeConsequences): string {
  const lines: string[] = []
  const list = (title: string, entries: readonly string[]): void => {
    if (entries.length === 0) return
    lines.push(title, ...entries.slice(0, MOST_SHOWN).map((entry) => `  ${entry}`))
    if (entries.length > MOST_SHOWN) lines.push(`  and ${entries.length - MOST_SHOWN} more`)
  }
  const { rows, findings } = told
  const packets = (title: string, kind: (typeof rows)[number]['kind']): void => {
    const own = rows.filter((row) => row.kind === kind)
    const standing = own.filter((row) => !row.failed)
    list(
      title,
      standing.map((row) => rowText(pair, row)),
    )
    if (standing.length < own.length)
      list(`${title.slice(0, -1)} with an end that is down itself:`, [
        `${own.length - standing.length} rows, told in JSON`,
      ])
  }
  list(
    'Objects:',
    told.objects.map(
      ({ object, kind, keys }) =>
        `${kind.padEnd(8)} ${object}${keys.length > 0 ? `: ${keys.join(', ')}` : ''}`,
    ),
  )
  packets('Cut:', 'cut')
  packets('Passed by:', 'passedBy')
  packets('Opened:', 'opened')
  packets('Elsewhere:', 'elsewhere')
  packets('Inspected:', 'inspected')
  // What was lost and is lost for another reason is no way that changes; JSON has it.
  const ways = told.ways.filter(({ before, after }) => !before?.cause || !after?.cause)
  list('Ways:', ways.map(wayLine))
  list('Findings:', [
    ...findings.came.map(
      (one) => `come  ${one.severity} ${one.code} ${one.anchor}: ${one.sentence}`,
    ),
    ...findings.went.map((one) => `gone  ${one.severity} ${one.code} ${one.anchor}`),
    ...findings.changed.map(({ after }) => `other ${after.severity} ${after.code} ${after.anchor}`),
  ])
  list(
    'Expectations:',
    told.expectations.map(
      ({ id, before, after }) =>
        `${id}: ${before ?? 'not there'} before, ${after ?? 'not there'} now`,
    ),
  )
  list(
    'Seen as:',
    told.seenAs.map(
      ({ party, subnet, before, after }) =>
        `${party} sees ${subnet.slice('subnets/'.length)} as ${after.join(' or ') || 'nothing'}, before as ${before.join(' or ') || 'nothing'}`,
    ),
  )
  if (told.money)
    lines.push(
      `Money: ${told.money.after} an hour, ${told.money.before} before${told.money.currency ? ` (${told.money.currency})` : ''}`,
    )
  list('Not covered:', told.leftOut)
  return lines.length === 0 ? 'Nothing differs.\n' : `${lines.join('\n')}\n`
}

function wayLine({
  subnet,
  hosts,
  destinations,
  before,
  after,
}: ChangeConsequences['ways'][number]): string {
  const more = destinations.length > 4 ? ` and ${destinations.length - 4} more` : ''
  const who =
    hosts.length === 0
      ? ''
      : ` (${hosts.slice(0, 2).join(', ')}${hosts.length > 2 ? ` and ${hosts.length - 2} more` : ''})`
  return `${subnet.slice('subnets/'.length)}${who} to ${destinations.slice(0, 4).join(', ')}${more}: ${wayText(before)} becomes ${wayText(after)}`
}
