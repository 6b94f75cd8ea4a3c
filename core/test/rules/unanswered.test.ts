import { answerTo, TCP, type Packet } from '../../src/packet/packet'
import { setHas } from '../../src/packet/packet-set'
import { mismatch, type Direction } from '../../src/rules/condition'
import type { SetModel } from '../../src/rules/rule-book'
import { stopsAnAnswer, unansweredOf } from '../../src/rules/unanswered'
import { random } from '../random/random'
import { runs } from '../random/runs'
import { isNear, listOf, randomList, randomPacket } from './lists'

function passes(set: SetModel, direction: Direction, packet: Packet): boolean {
  const rule = set.rules.find(
    (one) => one.direction === direction && mismatch(one, packet) === null,
  )
  return rule?.allow ?? set.otherwise[direction]
}

test('requests whose answers a list stops are just those it passes and whose answers it does not', () => {
  const seen = { stopped: 0, answered: 0 }
  for (let seed = 1; seed <= runs(80); seed++) {
    const r = random(seed)
    const set = randomList(r, 4 + r.number(30))
    let isStopped = false
    for (let asked = 0; asked < 60; asked++) {
      const request = { ...randomPacket(r), protocol: TCP }
      const isOut = isNear(request.src)
      const direction = isOut ? 'out' : 'in'
      const pair = isOut
        ? { near: request.src, far: request.dst }
        : { near: request.dst, far: request.src }
      const told = setHas(unansweredOf(set, direction, pair), request)
      const isLost =
        request.srcPort! >= 1024 &&
        passes(set, direction, request) &&
        !passes(set, isOut ? 'in' : 'out', answerTo(request))
      expect({ seed, request, told }).toEqual({ seed, request, told: isLost })
      isStopped ||= isLost
      seen[isLost ? 'stopped' : 'answered']++
    }
    if (isStopped) expect(stopsAnAnswer(set, 4)).toBe(true)
  }
  expect(seen.stopped).toBeGreaterThan(100)
  expect(seen.answered).toBeGreaterThan(100)
})

test('a list that lets everything pass stops no answer', () => {
  const open = { direction: 'in', action: 'allow', protocol: 'any', peers: ['any'] }
  const set = listOf([
    { ...open, order: 1 },
    { ...open, order: 2, direction: 'out' },
  ])
  expect([stopsAnAnswer(set, 4), stopsAnAnswer(set, 6)]).toEqual([false, false])
})
