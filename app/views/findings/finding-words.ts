import { familyOfCode, type FindingFamily, type Severity } from '@salt-trail/core'
import type { ListedFinding, ListedRootCause } from '~/api/answers'

export const FAMILIES: readonly {
  readonly family: FindingFamily
  readonly title: string
  readonly about: string
}[] = [
  { family: 'leak', title: 'Leaks', about: 'traffic goes a way it should not' },
  { family: 'hole', title: 'Black holes', about: 'traffic is lost' },
  { family: 'weak', title: 'Weak spots', about: 'it works, but not as it seems' },
]

export const GROUPINGS = ['root-cause', 'severity', 'family', 'network'] as const
export type FindingsGrouping = (typeof GROUPINGS)[number]
/** What single findings are grouped by. */
export type SingleGrouping = Exclude<FindingsGrouping, 'root-cause'>

const SEVERE: Record<Severity, { readonly title: string; readonly about: string }> = {
  critical: {
    title: 'Critical',
    about: 'everything of an element is lost, or the worst ports are open to the world',
  },
  high: { title: 'High', about: 'traffic leaks or is lost' },
  medium: { title: 'Medium', about: 'a weakness that a fault or a change will make worse' },
  low: { title: 'Low', about: 'works, at a cost' },
  note: { title: 'Notes', about: 'worth knowing' },
}

/** The group a finding stands in. */
export function groupOf(
  { code, severity, network }: ListedFinding,
  by: SingleGrouping,
): string | null {
  if (by === 'severity') return severity
  return by === 'family' ? familyOfCode(code) : network
}

/** Who root causes touch, in words. */
export function touchesText({
  matching,
  findings,
  subnets,
  hosts,
}: Pick<ListedRootCause, 'matching' | 'findings' | 'subnets' | 'hosts'>): string {
  const count = (n: number, what: string): string =>
    `${n.toLocaleString('en-GB')} ${what}${n === 1 ? '' : 's'}`
  return [
    matching < findings
      ? `${matching} of ${count(findings, 'finding')}`
      : count(findings, 'finding'),
    ...(subnets > 0 ? [count(subnets, 'subnet')] : []),
    ...(hosts > 0 ? [count(hosts, 'host')] : []),
  ].join(', ')
}

/** How a group is headed. */
export function groupTitle(
  key: string | null,
  by: SingleGrouping,
): { readonly title: string; readonly about: string } {
  if (by === 'severity') return SEVERE[key as Severity]
  const family = FAMILIES.find((one) => by === 'family' && one.family === key)
  return family ?? { title: key ?? 'In no network', about: '' }
}
