import { CAUSE_CODES, isRefusal, trace } from '../../src/index'
import { causeText, fixtures, modelOf, questionOf, type Case } from './fixtures'

const FIXTURES = fixtures()

for (const { name, fixture } of FIXTURES) {
  describe(`${name}: ${fixture.about}`, () => {
    test.each(fixture.cases.map((one) => [`${one.why} (${one.ask})`, one] as const))(
      '%s',
      (_, one) => {
        const answer = trace(modelOf(fixture.estate, one.edit), questionOf(one.ask))
        if (isRefusal(answer)) return expect(answer.message).toBe(one.refused)
        const said = { verdict: answer.verdict, cause: causeText(answer) }
        expect(said).toEqual({ verdict: one.verdict ?? 'works', cause: one.cause ?? null })
        if (one.way !== undefined) expect(answer.way).toEqual(one.way)
        if (one.leavesBy !== undefined) expect(answer.leavesBy).toBe(one.leavesBy)
        if (one.seenAs !== undefined) expect(answer.seenAs).toEqual(one.seenAs)
        if (one.branches !== undefined) expect(answer.branches).toHaveLength(one.branches)
      },
    )
  })
}

/** Whether a fixture has a case lost for this, and the same question, an edit away, that is not. */
function isPaired(code: string): boolean {
  const about = (one: Case): boolean => one.cause?.split(' ')[0] === code
  return FIXTURES.some(({ fixture: { cases } }) =>
    cases.some(
      (one) =>
        about(one) &&
        cases.some((twin) => twin.ask === one.ask && twin.refused === undefined && !about(twin)),
    ),
  )
}

test.each(CAUSE_CODES)(
  '%s has a fixture where it appears, and one, an edit away, where it does not',
  (code) => expect(isPaired(code)).toBe(true),
)
