import {
  allCandidates,
  budgetOf,
  compile,
  findAll,
  foresightOf,
  packetsAmong,
  tellPackets,
  type Estate,
  type Finding,
} from '../../src/index'
import { edited } from '../model/edits'
import { randomEstate } from '../random/estate'
import { random } from '../random/random'
import { estateOfJson } from '../random/read'

const print = ({ fingerprint }: Finding): string => fingerprint
const findingsOf = (estate: Estate): readonly Finding[] => findAll(compile(estate))!.findings

test.each([4, 22])(
  'what is foreseen of random estate %i is what two analyses and all packets differ in',
  (seed) => {
    const first = estateOfJson(randomEstate(seed).estate)
    const foresight = foresightOf(first)
    for (let at = 0; at < 2; at++) {
      const next = edited(first, random(seed + at))
      const { packets, findingsCome, findingsGone } = foresight.foresee(next)
      const [was, is] = [findingsOf(first), findingsOf(next)]
      const beside = (some: readonly Finding[], others: readonly Finding[]): string[] => {
        const known = new Set(others.map(print))
        return some
          .map(print)
          .filter((one) => !known.has(one))
          .sort()
      }
      expect(findingsCome.map(print).sort()).toEqual(beside(is, was))
      expect(findingsGone.map(print).sort()).toEqual(beside(was, is))
      const before = compile(first)
      const pair = { before, after: compile(next, before) }
      const all = tellPackets(pair, packetsAmong(pair, allCandidates(pair)))
      expect(packets.counts).toEqual(all.counts)
    }
  },
)

test('it is the same whatever was foreseen before, and nothing follows from nothing', () => {
  const first = estateOfJson(randomEstate(22).estate)
  const foresight = foresightOf(first)
  const next = edited(edited(first, random(22)), random(24))
  foresight.foresee(edited(edited(first, random(22)), random(25)))
  expect(foresight.foresee(next)).toEqual(foresightOf(first).foresee(next))
  const { exits, findingsCome, findingsGone, findingsOther, packets } = foresight.foresee(first)
  const all = [exits, findingsCome, findingsGone, findingsOther, packets.rows]
  expect(all.flat()).toEqual([])
})

test('all but packets is there at once; packets come in turns, and none are owed', () => {
  const first = estateOfJson(randomEstate(22).estate)
  const foresight = foresightOf(first)
  const next = edited(first, random(22))
  const whole = foresight.foresee(next)
  const { atOnce, packets } = foresight.foreseeInTurns(next)
  expect({ ...atOnce, packets: whole.packets }).toEqual(whole)
  // Another state is foreseen between two turns.
  packets.next()
  foresight.foresee(edited(first, random(23)))
  let turns = 1
  let turn = packets.next()
  for (; !turn.done; turn = packets.next()) turns++
  expect(turn.value).toEqual(whole.packets)
  expect(turns).toBeGreaterThan(1)
})

test('a budget that is used up leaves senders out, by name and once', () => {
  const first = estateOfJson(randomEstate(22).estate)
  const { packets } = foresightOf(first).foresee(edited(first, random(22)), budgetOf(1))
  expect(packets.leftOut.length).toBeGreaterThan(0)
  expect(new Set(packets.leftOut).size).toBe(packets.leftOut.length)
})
