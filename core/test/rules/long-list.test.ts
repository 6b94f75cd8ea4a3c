import {
  boxOfPacket,
  meet,
  packetOf,
  type PacketBox,
  allPackets,
  type Field,
} from '../../src/packet/packet-set'
import type { Packet } from '../../src/packet/packet'
import { mismatch, type Direction } from '../../src/rules/condition'
import { decidingRule } from '../../src/rules/long-list'
import type { SetModel, SetRule } from '../../src/rules/rule-book'
import { random } from '../random/random'
import { runs } from '../random/runs'
import { randomList, randomPacket } from './lists'

const firstThatMatches = (set: SetModel, direction: Direction, packet: Packet): SetRule | null =>
  set.rules.find((rule) => rule.direction === direction && mismatch(rule, packet) === null) ?? null

test('a long list decides as its rules one by one do, for every packet of the box it notes', () => {
  const decided = new Set<boolean>()
  for (let seed = 1; seed <= runs(100); seed++) {
    const r = random(seed)
    const set = randomList(r, 40)
    for (let asked = 0; asked < 40; asked++) {
      const packet = randomPacket(r)
      const direction = r.pick(['in', 'out'] as const)
      const box = { ...allPackets(4) } as { -readonly [F in Field]: PacketBox[F] }
      const rule = decidingRule(set, direction, packet, (field, span) => {
        box[field] = meet(box[field], span)!
      })
      expect(rule).toBe(firstThatMatches(set, direction, packet))
      decided.add(rule === null)
      expect(meet(box.dstPort, boxOfPacket(packet).dstPort)).not.toBeNull()
      // A corner of the box, and the packet with one field moved to that corner.
      const corner = packetOf(box, { srcPort: -1, dstPort: -1 })
      for (const other of [corner, { ...packet, dstPort: corner.dstPort }])
        expect(firstThatMatches(set, direction, other)).toBe(rule)
    }
  }
  expect(decided.size).toBe(2)
})

test('a short list is left to be asked rule by rule', () => {
  const r = random(7)
  expect(decidingRule(randomList(r, 8), 'in', randomPacket(r), undefined)).toBeUndefined()
})
