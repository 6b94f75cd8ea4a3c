import type { ExpectationResult, Finding, Problem } from '@salt-trail/core'
import { create } from 'xmlbuilder2'

/**
 * A run as JUnit's XML: a case for each expectation, and one that fails for each problem and
 * finding.
 */
export function junit(
  problems: readonly Problem[],
  findings: readonly Finding[],
  expectations: readonly ExpectationResult[],
): string {
  const root = create({ version: '1.0', encoding: 'UTF-8' }).ele('testsuites', {
    name: 'Salt Trail',
  })
  const suite = (name: string, tests: number, failures: number, skipped: number) =>
    root.ele('testsuite', { name, tests, failures, errors: 0, skipped })
  const files = suite('files', problems.length, problems.length, 0)
  for (const p of problems)
    files
      .ele('testcase', { classname: p.code, name: `${p.file}:${p.line}:${p.column}` })
      .ele('failure', { type: p.severity, message: p.message })
  const found = suite('findings', findings.length, findings.length, 0)
  for (const f of findings) {
    const one = found.ele('testcase', { classname: f.code, name: f.anchor })
    const { kind, object, part } = f.root
    one
      .ele('properties')
      .ele('property', { name: 'root', value: `${kind} ${object} ${part}`.trim() })
    one.ele('failure', { type: f.severity, message: f.sentence }).txt(f.evidence.ranges.join('\n'))
  }
  const broken = expectations.filter((one) => one.state === 'broken').length
  const empty = expectations.filter((one) => one.state === 'empty').length
  const expected = suite('expectations', expectations.length, broken, empty)
  for (const e of expectations) {
    const one = expected.ele('testcase', { classname: e.must, name: e.id })
    if (e.state === 'broken')
      one.ele('failure', { type: 'broken', message: e.sentence }).txt(e.because ?? '')
    if (e.state === 'empty') one.ele('skipped', { message: e.sentence })
  }
  return `${root.end({ prettyPrint: true })}\n`
}
