import { isRefusal, trace } from '../../src/index'
import { causeText, fixtures, modelOf, questionOf } from './fixtures'

for (const { name, fixture } of fixtures()) {
  describe(`${name}: ${fixture.about}`, () => {
    test.each(fixture.cases.map((one) => [`${one.why} (${one.ask})`, one] as const))('%s', (_, one) => {
      const answer = trace(modelOf(fixture.estate, one.edit), questionOf(one.ask))
      if (isRefusal(answer)) return expect(answer.message).toBe(one.refused)
      const said = { verdict: answer.verdict, cause: causeText(answer) }
      expect(said).toEqual({ verdict: one.verdict ?? 'works', cause: one.cause ?? null })
      if (one.way !== undefined) expect(answer.way).toEqual(one.way)
      if (one.leavesBy !== undefined) expect(answer.leavesBy).toBe(one.leavesBy)
      if (one.seenAs !== undefined) expect(answer.seenAs).toEqual(one.seenAs)
      if (one.branches !== undefined) expect(answer.branches).toHaveLength(one.branches)
    })
  })
}
