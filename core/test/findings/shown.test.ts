import { familyOfCode, findAll, compile, isRefusal, trace } from '../../src/index'
import { randomEstate } from '../random/estate'
import { estateOfJson } from '../random/read'
import { runs } from '../random/runs'

const seeds = Array.from({ length: runs(12) }, (_, at) => at + 1)

test.each(seeds)('the packet of each blackhole in estate %i is lost', (seed) => {
  const model = compile(estateOfJson(randomEstate(seed).estate))
  for (const { code, anchor, sentence, evidence } of findAll(model)!.findings) {
    if (familyOfCode(code) !== 'hole' || evidence.question === null) continue
    const answer = trace(model, evidence.question, { evidence: false })
    const verdict = isRefusal(answer) ? answer.message : answer.verdict
    expect({ code, anchor, sentence, verdict }).not.toEqual({
      code,
      anchor,
      sentence,
      verdict: 'works',
    })
  }
})
