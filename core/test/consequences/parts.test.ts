import fc from 'fast-check'
import { compile, pairSenders, setHas, walkFlow } from '../../src/index'
import { workingIn } from '../../src/consequences/parts'
import { fateOf } from '../../src/consequences/fate'
import { boxOfPacket } from '../../src/packet/packet-set'
import { randomEstate } from '../random/estate'
import { estateOfJson } from '../random/read'
import { random } from '../random/random'
import { packetFrom } from './packet-from'
import { runs } from '../random/runs'

const RUNS = runs(20)

test('rules asked as sets after the walk say what they say when asked on the way', () => {
  const seen = { all: 0, some: 0, none: 0, unsaid: 0 }
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 30 }), (half) => {
      const model = compile(estateOfJson(randomEstate(2 * half).estate))
      const r = random(half)
      const pair = { before: model, after: model }
      const senders = pairSenders(pair)
      for (let asked = 0; asked < 60; asked++) {
        const sender = r.pick([...senders])
        const packet = packetFrom(pair, sender, r)
        const end = sender.before?.end
        if (packet === null || end === undefined) continue
        const alone = boxOfPacket(packet)
        const exact = fateOf(model, walkFlow(model, end, packet, alone, true))
        const wide = { ...alone, srcPort: ALL, dstPort: ALL, protocol: { from: 0, to: 255 } }
        const flow = walkFlow(model, end, packet, wide, true, { defersRules: true })
        const found = workingIn(model, flow, flow.box)
        if (found === null) {
          seen.unsaid++
          continue
        }
        const own = found.filter(({ packets }) => setHas(packets, packet))
        const fates = own.map(({ fate }) => fate)
        expect({ half, packet, fates }).toEqual({
          half,
          packet,
          fates: exact.works === 'none' ? [] : [exact],
        })
        seen[exact.works]++
      }
    }),
    { numRuns: RUNS, seed: 12 },
  )
  expect(seen.all).toBeGreaterThan(100)
  expect(seen.none).toBeGreaterThan(100)
  expect(seen.some).toBeGreaterThan(0)
  expect(seen.unsaid).toBeLessThan((seen.all + seen.none) / 10)
})

const ALL = { from: 0, to: 65535 }
