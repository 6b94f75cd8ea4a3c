import type { Location, Log, ReportingDescriptor, Result } from 'sarif'
import {
  aboutFinding,
  FINDING_CODES,
  type ExpectationResult,
  type Finding,
  type Problem,
  type ReadResult,
  type Section,
  type Severity,
} from '@salt-trail/core'

type Locate = ReadResult['locate']

const LEVEL: Record<Severity, 'error' | 'warning' | 'note'> = {
  critical: 'error',
  high: 'error',
  medium: 'warning',
  low: 'note',
  note: 'note',
}

/**
 * Problems, findings and broken expectations as SARIF 2.1.0 (OASIS), each at the place of its
 * object; its types hold it to the schema.
 */
export function sarif(
  problems: readonly Problem[],
  findings: readonly Finding[],
  expectations: readonly ExpectationResult[],
  locate: Locate,
): Log {
  const broken = expectations.filter((one) => one.state === 'broken')
  const codes = [
    ...new Set([
      ...problems.map((p) => p.code),
      ...findings.map((f) => f.code),
      ...(broken.length > 0 ? ['expectation-broken'] : []),
    ]),
  ]
  const rules = codes.map((id): ReportingDescriptor => ({
    id,
    shortDescription: { text: aboutCode(id) },
  }))
  const place = (ref: string): Location => {
    // The estate as a whole stands in all files.
    if (!ref.includes('/')) return { logicalLocations: [{ fullyQualifiedName: ref }] }
    const slash = ref.indexOf('/')
    const { file, line, column } = locate(
      ref.slice(0, slash) as Section,
      ref.slice(slash + 1),
      [],
      'key',
    )
    return at(file, line, column, ref)
  }
  return {
    $schema:
      'https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json',
    version: '2.1.0',
    runs: [
      {
        tool: { driver: { name: 'Salt Trail', rules } },
        columnKind: 'utf16CodeUnits',
        results: [
          ...problems.map((p): Result => ({
            ruleId: p.code,
            ruleIndex: codes.indexOf(p.code),
            level: p.severity,
            message: { text: p.message },
            locations: [at(p.file, p.line, p.column, p.object)],
          })),
          ...findings.map((f): Result => ({
            ruleId: f.code,
            ruleIndex: codes.indexOf(f.code),
            level: LEVEL[f.severity],
            message: { text: f.sentence },
            locations: [place(f.anchor)],
            partialFingerprints: { 'finding/v1': f.fingerprint },
            properties: { severity: f.severity, objects: f.objects, root: f.root },
          })),
          ...broken.map((e): Result => ({
            ruleId: 'expectation-broken',
            ruleIndex: codes.indexOf('expectation-broken'),
            level: 'error',
            message: { text: `${e.id} (${e.must}): ${e.sentence}` },
            locations: [place(`expectations/${e.id}`)],
          })),
        ],
      },
    ],
  }
}

const aboutCode = (code: string): string =>
  (FINDING_CODES as readonly string[]).includes(code)
    ? aboutFinding(code as Finding['code'])
    : code === 'expectation-broken'
      ? 'An expectation does not hold.'
      : 'Something is wrong with the file.'

const at = (file: string, line: number, column: number, object: string | null): Location => ({
  physicalLocation: {
    artifactLocation: { uri: encodeURI(file.replaceAll('\\', '/')) },
    region: { startLine: line, startColumn: column },
  },
  ...(object === null ? {} : { logicalLocations: [{ fullyQualifiedName: object }] }),
})
