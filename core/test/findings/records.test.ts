import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { parse } from 'yaml'
import { CHECKS, findAll, FINDING_CODES, FINDINGS, SEVERITIES } from '../../src/index'
import { modelOf } from '../trace/fixtures'

test('there is one record for each code, and no other', () => {
  expect(Object.keys(FINDINGS).sort()).toEqual([...FINDING_CODES].sort())
})

test.each(FINDING_CODES)('%s says what it is, how grave it may be, and what finds it', (code) => {
  const { about, severities, foundBy } = FINDINGS[code]
  expect(about).toMatch(/^[A-Z].{20,}\.$/)
  expect(severities.length).toBeGreaterThan(0)
  const ranks = severities.map((one) => SEVERITIES.indexOf(one))
  expect(ranks).toEqual([...ranks].sort())
  // What is told of all findings together is found by no check of its own.
  expect(foundBy.length > 0).toBe(code !== 'odd-unlike')
})

test('every check is made in one step, once', () => {
  const made = CHECKS.flatMap(([, checks]) => checks)
  expect(new Set(made).size).toBe(made.length)
  expect(new Set(made)).toEqual(new Set(FINDING_CODES.flatMap((code) => FINDINGS[code].foundBy)))
  expect(new Set(CHECKS.map(([step]) => step)).size).toBe(CHECKS.length)
})

test('findings of every code have a severity and an anchor of its record', () => {
  const folder = join(__dirname, 'fixtures')
  const fixtures = readdirSync(folder).map(
    (file) =>
      parse(readFileSync(join(folder, file), 'utf8')) as {
        estate: Record<string, unknown>
        cases: { edit?: object }[]
      },
  )
  const found = new Set<string>()
  for (const { estate, cases } of fixtures) {
    for (const { edit } of cases) {
      for (const { code, severity, anchor } of findAll(modelOf(estate, edit))!.findings) {
        const { severities, anchors } = FINDINGS[code]
        expect(severities).toContain(severity)
        if (anchors !== 'any') expect(anchors).toContain(anchor.split('/')[0])
        found.add(`${code} ${severity}`)
      }
    }
  }
  expect(new Set([...found].map((one) => one.split(' ')[0]))).toEqual(new Set(FINDING_CODES))
})
