import { familyOfCode, SEVERITIES, type Finding, type FindingFamily, type Severity } from '@salt-trail/core'

export const FAMILIES: readonly { readonly family: FindingFamily; readonly title: string; readonly about: string }[] = [
  { family: 'leak', title: 'Leaks', about: 'traffic goes a way it should not' },
  { family: 'hole', title: 'Black holes', about: 'traffic is lost' },
  { family: 'weak', title: 'Weak spots', about: 'it works, but not as it seems' },
]

export interface Chosen {
  readonly family: FindingFamily | null
  readonly severity: Severity | null
  readonly text: string
}

/** The findings that are chosen, family by family, the gravest first. */
export function chosenFindings(
  findings: readonly Finding[],
  { family, severity, text }: Chosen,
): { readonly family: FindingFamily; readonly findings: readonly Finding[] }[] {
  const wanted = text.trim().toLowerCase()
  const fits = (one: Finding): boolean =>
    (severity === null || SEVERITIES.indexOf(one.severity) <= SEVERITIES.indexOf(severity)) &&
    (wanted === '' || `${one.code} ${one.sentence} ${one.objects.join(' ')}`.toLowerCase().includes(wanted))
  return FAMILIES.filter((one) => family === null || one.family === family)
    .map((one) => ({ family: one.family, findings: findings.filter((each) => familyOfCode(each.code) === one.family && fits(each)) }))
    .filter((group) => group.findings.length > 0)
}
