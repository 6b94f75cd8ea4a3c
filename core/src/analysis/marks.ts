import { parseAddress, type Address } from '../address/address'
import { longestMatch } from '../address/prefix-table'
import { prefixOf } from '../address/prefix'
import { rangeSetOf, rangesContain } from '../address/ranges'
import { destinationsOf, EXIT_COLUMNS, type ExitColumn } from '../exits/columns'
import type { ExitRow } from '../exits/exits'
import { familyOfCode, type Family, type Finding, type FindingCode } from '../findings/finding'
import type { Model, SubnetModel } from '../model/model'

/** A finding as a cell of the matrix carries it. */
export interface CellFinding {
  readonly fingerprint: string
  readonly family: Family
  readonly sentence: string
  /** A question that shows it. */
  readonly question: { readonly from: string; readonly to: string } | null
}

/** A row with what is wrong with its ways, column by column. */
export type MarkedRow = ExitRow & { readonly findings: { readonly [C in ExitColumn]?: readonly CellFinding[] } }

/** Findings that speak of a subnet’s ways out; of them, those that always speak of one column. */
const COLUMN_OF: Partial<Record<FindingCode, ExitColumn | 'by its ranges'>> = {
  'leak-direct': 'internet',
  'leak-ipv6': 'internet',
  'leak-service-by-internet': 'services',
  'leak-round-firewall': 'by its ranges',
  'leak-one-way-inspected': 'by its ranges',
  'leak-learned-route': 'by its ranges',
  'hole-dead-target': 'by its ranges',
  'hole-next-hop': 'by its ranges',
  'hole-no-way-out': 'internet',
  'hole-no-public-address': 'internet',
  'hole-nat-without-way-out': 'internet',
  'hole-nat-out-of-reach': 'internet',
  'hole-not-transitive': 'by its ranges',
  'hole-forwarded-refused': 'by its ranges',
  'hole-loop': 'by its ranges',
  'hole-no-state': 'by its ranges',
  'hole-rules-without-route': 'by its ranges',
  'hole-route-without-rules': 'by its ranges',
  'odd-role': 'internet',
  'odd-crosses-zone': 'internet',
}

/** Elements that lose every packet that is lost at them for the same reason; a table may lose some for another. */
const ELEMENTS = /^(nats|peerings|gateways|firewalls|transits)\//

/** No cell lists more; the findings view has them all. */
const MOST_IN_A_CELL = 4

/** The rows of the matrix with the findings about their ways. */
export function markRows(model: Model, rows: readonly ExitRow[], findings: readonly Finding[]): MarkedRow[] {
  const bySubnet = new Map<string, { [C in ExitColumn]?: CellFinding[] }>()
  for (const finding of findings) {
    const column = COLUMN_OF[finding.code]
    if (column === undefined) continue
    for (const id of subnetsOf(finding)) {
      const subnet = model.subnets[model.index.subnets.get(id) ?? -1]
      if (!subnet) continue
      const where = column === 'by its ranges' ? columnOf(model, subnet, finding) : column
      const cells = bySubnet.get(id) ?? {}
      bySubnet.set(id, cells)
      const list = (cells[where] ??= [])
      const { fingerprint, sentence, evidence } = finding
      const question = evidence.question && { from: evidence.question.from, to: evidence.question.to }
      if (list.length < MOST_IN_A_CELL) list.push({ fingerprint, family: familyOfCode(finding.code), sentence, question })
    }
  }
  const byAnchor = new Map(
    findings.filter(({ code, anchor }) => COLUMN_OF[code] !== undefined && ELEMENTS.test(anchor)).map((finding) => [finding.anchor, finding]),
  )
  return rows.map((row) => ({ ...row, findings: withLosses(row, bySubnet.get(row.subnet) ?? {}, byAnchor) }))
}

/** What is said of an element stands at every cell that loses its packets there. */
function withLosses(row: ExitRow, own: { readonly [C in ExitColumn]?: readonly CellFinding[] }, byAnchor: ReadonlyMap<string, Finding>): MarkedRow['findings'] {
  const cells: { [C in ExitColumn]?: readonly CellFinding[] } = { ...own }
  for (const column of EXIT_COLUMNS) {
    for (const { cause, question } of row[column]) {
      const finding = cause === null ? undefined : byAnchor.get(cause.object)
      const known = cells[column] ?? []
      if (!finding || known.length >= MOST_IN_A_CELL || known.some((one) => one.fingerprint === finding.fingerprint)) continue
      const { fingerprint, sentence, code } = finding
      cells[column] = [...known, { fingerprint, family: familyOfCode(code), sentence, question }]
    }
  }
  return cells
}

/** The subnets whose ways a finding is about: its anchor, or all that it names where it stands at something they use. */
function subnetsOf({ anchor, objects }: Finding): string[] {
  const ids = (refs: readonly string[]): string[] => refs.flatMap((ref) => (ref.startsWith('subnets/') ? [ref.slice('subnets/'.length)] : []))
  const own = ids([anchor])
  return own.length > 0 ? own : ids(objects)
}

/** The column that the first of a finding’s destinations is in. */
function columnOf(model: Model, subnet: SubnetModel, { evidence }: Finding): ExitColumn {
  const [listed = evidence.question?.to ?? 'internet'] = evidence.ranges
  // Of what stands at the one who answers, its ways are those to the one who asked.
  const answers = evidence.packet !== null && evidence.packet.dst === listed && rangesContain(rangeSetOf(subnet.allRanges), parseAddress(listed)!)
  const first = answers ? evidence.packet!.src : listed
  if (first === 'internet' || first.endsWith('/0')) return 'internet'
  const address: Address | null = first.includes('/') ? prefixOf(first).address : parseAddress(first)
  if (address === null) return 'otherNetworks'
  for (const column of ['sites', 'services'] as const) if (rangesContain(destinationsOf(model, subnet, column), address)) return column
  if (rangesContain(rangeSetOf(model.networks[subnet.network]!.ranges), address)) return 'sameNetwork'
  if (longestMatch(model.networkSpace, address).length > 0) return 'otherNetworks'
  return rangesContain(model.internetSpace, address) ? 'internet' : 'otherNetworks'
}
