import { familyOfCode, type FindingFamily, type Severity } from '@salt-trail/core'
import type { ListedFinding } from '~/api/answers'

export const FAMILIES: readonly {
  readonly family: FindingFamily
  readonly title: string
  readonly about: string
}[] = [
  { family: 'leak', title: 'Leaks', about: 'traffic goes a way it should not' },
  { family: 'hole', title: 'Black holes', about: 'traffic is lost' },
  { family: 'weak', title: 'Weak spots', about: 'it works, but not as it seems' },
]

export const GROUPINGS = ['severity', 'family', 'network'] as const
export type FindingsGrouping = (typeof GROUPINGS)[number]

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
  by: FindingsGrouping,
): string | null {
  if (by === 'severity') return severity
  return by === 'family' ? familyOfCode(code) : network
}

/** How a group is headed. */
export function groupTitle(
  key: string | null,
  by: FindingsGrouping,
): { readonly title: string; readonly about: string } {
  if (by === 'severity') return SEVERE[key as Severity]
  const family = FAMILIES.find((one) => by === 'family' && one.family === key)
  return family ?? { title: key ?? 'In no network', about: '' }
}
