import { parseAddress } from '../address/address'
import { longestMatch } from '../address/prefix-table'
import { prefixOf } from '../address/prefix'
import { rangeSetOf, rangesContain } from '../address/ranges'
import { EXIT_COLUMNS, farEndAt, type ExitColumn, type FarEnd } from '../exits/columns'
import type { ExitRow } from '../exits/exits'
import type { Family, Finding } from '../findings/finding'
import { familyOfCode, FINDINGS } from '../findings/records'
import type { Model, SubnetModel } from '../model/model'
import { onlyZone } from './only-zone'

/** A finding as it is shown at a cell of the matrix. */
export interface CellFinding {
  readonly fingerprint: string
  readonly family: Family
  readonly sentence: string
  /** The finding's anchor: a way that is lost there is lost for this reason. */
  readonly anchor: string
  /** The members of the column that the finding names. */
  readonly members: readonly string[]
  /** A question that shows it. */
  readonly question: { readonly from: string; readonly to: string } | null
}
export type ColumnFindings = { readonly [C in ExitColumn]?: readonly CellFinding[] }

/**
 * A row with the findings about its ways, column by column, for traffic that leaves and that
 * enters.
 */
export type MarkedRow = ExitRow & {
  readonly findings: ColumnFindings
  readonly entering: ColumnFindings
  /**
   * The one zone, not its own, that all its ways to the internet and to services pass; null where
   * there is none.
   */
  readonly zone: string | null
}

/** Elements that lose packets for one reason only; a table may lose them for several. */
const ELEMENTS = /^(nats|peerings|gateways|firewalls|transits)\//

/** A cell lists at most this many findings; the Findings view has them all. */
const MOST_IN_A_CELL = 4

type Cells = Map<string, { [C in ExitColumn]?: CellFinding[] }>

/**
 * A function that marks rows of the matrix with the findings about their ways. Findings are
 * assigned to cells once, for all rows.
 */
export function markerOf(model: Model, findings: readonly Finding[]): (row: ExitRow) => MarkedRow {
  const [leaving, entering]: [Cells, Cells] = [new Map(), new Map()]
  for (const finding of findings) {
    const { leaving: column, entering: isEntering } = FINDINGS[finding.code]
    if (column !== null) {
      for (const id of subnetsOf(finding)) {
        const subnet = subnetBy(model, id)
        if (!subnet) continue
        const byRanges = column === 'by-its-ranges'
        const ends = byRanges ? farEndsOf(model, subnet, finding) : membersNamed(column, finding)
        put(leaving, subnet, finding, ends)
      }
    }
    const entered = isEntering ? enteredBy(model, finding) : null
    if (entered) put(entering, entered.subnet, finding, [entered.from])
  }
  const byAnchor = new Map(
    findings
      .filter(({ code, anchor }) => FINDINGS[code].leaving !== null && ELEMENTS.test(anchor))
      .map((finding) => [finding.anchor, finding]),
  )
  return (row) => ({
    ...row,
    findings: withLosses(row, leaving.get(row.subnet) ?? {}, byAnchor),
    entering: entering.get(row.subnet) ?? {},
    zone: onlyZone(model, row),
  })
}

const subnetBy = (model: Model, id: string): SubnetModel | undefined =>
  model.subnets[model.index.subnets.get(id) ?? -1]

/**
 * Puts a finding into the column of its first far end, with the members of that column that it
 * names.
 */
function put(cells: Cells, subnet: SubnetModel, finding: Finding, ends: readonly FarEnd[]): void {
  const [{ column }] = ends as [FarEnd]
  const row = cells.get(subnet.id) ?? {}
  cells.set(subnet.id, row)
  const list = (row[column] ??= [])
  const members = new Set(
    ends.flatMap((end) => (end.column === column && end.member !== null ? [end.member] : [])),
  )
  if (list.length < MOST_IN_A_CELL) list.push(cellFinding(finding, [...members]))
}

const cellFinding = (
  { fingerprint, code, sentence, anchor, evidence: { question } }: Finding,
  members: readonly string[],
): CellFinding => ({
  fingerprint,
  family: familyOfCode(code),
  sentence,
  anchor,
  members,
  question: question && { from: question.from, to: question.to },
})

/** Adds the findings of elements to every cell whose packets are lost there. */
function withLosses(
  row: ExitRow,
  own: ColumnFindings,
  byAnchor: ReadonlyMap<string, Finding>,
): ColumnFindings {
  const cells: { [C in ExitColumn]?: readonly CellFinding[] } = { ...own }
  for (const column of EXIT_COLUMNS) {
    for (const { cause, question } of row[column]) {
      const finding = cause === null ? undefined : byAnchor.get(cause.object)
      const known = cells[column] ?? []
      if (
        !finding ||
        known.length >= MOST_IN_A_CELL ||
        known.some((one) => one.fingerprint === finding.fingerprint)
      )
        continue
      cells[column] = [...known, { ...cellFinding(finding, []), question }]
    }
  }
  return cells
}

const idsIn = (section: string, refs: readonly string[]): string[] =>
  refs.flatMap((ref) => (ref.startsWith(`${section}/`) ? [ref.slice(section.length + 1)] : []))

/**
 * The subnets whose ways a finding is about: its anchor, or all subnets it names where its anchor
 * is something they use.
 */
function subnetsOf({ anchor, objects }: Finding): string[] {
  const own = idsIn('subnets', [anchor])
  return own.length > 0 ? own : idsIn('subnets', objects)
}

/** The column that a code always marks, with the members that the finding names. */
const membersNamed = (column: ExitColumn, { objects }: Finding): FarEnd[] => [
  { column, member: null },
  ...(column === 'services'
    ? idsIn('services', objects).map((member) => ({ column, member }))
    : []),
]

/** At most this many ranges of a finding are assigned to members of a column. */
const MOST_PLACED = 64

/** The far ends that a finding's destinations lie in, in the order of the ranges. */
function farEndsOf(model: Model, subnet: SubnetModel, { evidence }: Finding): FarEnd[] {
  const [listed = evidence.question?.to ?? 'internet', ...more] = evidence.ranges
  // A finding at the answering side is about its ways to the asking side.
  const answers =
    evidence.packet !== null &&
    evidence.packet.dst === listed &&
    rangesContain(rangeSetOf(subnet.allRanges), parseAddress(listed)!)
  if (answers) return [farEnd(model, subnet, evidence.packet!.src)]
  return [listed, ...more.slice(0, MOST_PLACED)].map((text) => farEnd(model, subnet, text))
}

/** The far end of an address, a prefix or an end of a question. */
function farEnd(model: Model, subnet: SubnetModel, text: string): FarEnd {
  if (text === 'internet' || text.startsWith('party:') || text.endsWith('/0'))
    return { column: 'internet', member: null }
  if (text.startsWith('site:')) return { column: 'sites', member: text.slice('site:'.length) }
  if (text.startsWith('service:'))
    return { column: 'services', member: text.slice('service:'.length) }
  const home = subnetOfEnd(model, text)
  if (home)
    return home.network === subnet.network
      ? { column: 'sameNetwork', member: null }
      : { column: 'otherNetworks', member: model.networks[home.network]!.id }
  const address = text.includes('/') ? prefixOf(text).address : parseAddress(text)
  return address === null
    ? { column: 'otherNetworks', member: null }
    : farEndAt(model, subnet, address)
}

/** The subnet that an end of a question names, or is a host of. */
function subnetOfEnd(model: Model, end: string): SubnetModel | undefined {
  const [kind, id = ''] = end.split(/[:@]/)
  if (kind === 'subnet') return subnetBy(model, id)
  const host =
    kind === 'interface' ? model.interfaces[model.index.interfaces.get(id) ?? -1] : undefined
  return host && model.subnets[host.subnet]
}

/** The subnet that a finding's packet enters, and the far end that it comes from. */
function enteredBy(
  model: Model,
  { anchor, evidence: { question, packet } }: Finding,
): { subnet: SubnetModel; from: FarEnd } | null {
  if (question === null) return null
  const inside = packet === null ? null : parseAddress(packet.dst)
  const home = inside === null ? undefined : longestMatch(model.subnetSpace, inside)[0]
  const subnet =
    subnetOfEnd(model, question.to) ??
    (home === undefined
      ? subnetOfEnd(model, anchor.replace('interfaces/', 'interface:'))
      : model.subnets[home])
  if (!subnet || subnetOfEnd(model, question.from) === subnet) return null
  return { subnet, from: farEnd(model, subnet, question.from) }
}
