import fc from 'fast-check'
import {
  allCandidates,
  candidatesOf,
  compile,
  packetsAmong,
  pairSenders,
  placeOfProtocol,
  tracePacket,
  type Address,
  type Model,
  type Packet,
  type Pair,
  type PairedSender,
  type Row,
} from '../../src/index'
import { edited } from '../model/edits'
import { randomEstate } from '../random/estate'
import { estateOfJson } from '../random/read'
import { random } from '../random/random'
import { packetFrom } from './packet-from'
import { fields, texts } from './row-texts'
import { runs } from '../random/runs'

const RUNS = runs(3)

/** A random estate and the same with one change made. */
function randomPair(seed: number): Pair {
  const estate = estateOfJson(randomEstate(seed).estate)
  const before = compile(estate)
  return { before, after: compile(edited(estate, random(seed)), before) }
}

test('what a change can reach is all that differs: nothing beside it does', () => {
  let rows = 0
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 30 }), (half) => {
      const pair = randomPair(2 * half)
      const found = packetsAmong(pair, candidatesOf(pair))
      const all = packetsAmong(pair, allCandidates(pair))
      expect({ half, rows: texts(found) }).toEqual({ half, rows: texts(all) })
      rows += all.rows.length
    }),
    // Estates in which something was once not reached: a branch that is lost beside one that works,
    // an answer of a site by a transit, a party that goes.
    { numRuns: RUNS, seed: 31, examples: [[22], [102], [103], [19], [43]] },
  )
  expect(rows).toBeGreaterThan(5)
})

/** Whether a packet works there and back by every branch, by some, or by none. */
function worksIn(model: Model, sender: PairedSender['before'], packet: Packet): string {
  if (sender === null) return 'none'
  const trace = tracePacket(model, sender.end, packet, false)
  const branches = trace.branches.length > 0 ? trace.branches : [trace]
  const works = branches.filter(
    ({ verdict, forward }) =>
      verdict === 'works' && !forward.stations.at(-1)!.at.startsWith('subnets/'),
  )
  return works.length === 0 ? 'none' : works.length === branches.length ? 'all' : 'some'
}

/** Whether a row has a packet of a sender. */
const holds = (row: Row, sender: string, packet: Packet): boolean => {
  const among = (set: Row['protocols'], value: Address): boolean =>
    set.some(({ from, to }) => typeof from === typeof value && from <= value && value <= to)
  return (
    among(row.from.get(sender) ?? [], packet.src) &&
    [...row.to.values()].some((set) => among(set, packet.dst)) &&
    among(row.protocols, placeOfProtocol(packet.protocol)) &&
    (packet.srcPort === null || among(row.srcPorts, packet.srcPort)) &&
    (packet.dstPort === null || among(row.dstPorts, packet.dstPort))
  )
}

test('questions asked of both states at random: what differs is in a row, and what is not does not', () => {
  let differing = 0
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 30 }), (half) => {
      const pair = randomPair(2 * half)
      const { rows } = packetsAmong(pair, candidatesOf(pair))
      const r = random(half)
      const senders = pairSenders(pair)
      const asked = Array.from({ length: 400 }, () => {
        const sender = r.pick(senders)
        return { sender, packet: packetFrom(pair, sender, r) }
      })
      // Random packets seldom meet what differs, so the packets of rows are asked too.
      const shown = rows.map((row) => {
        const [name] = [...row.from].find(([, set]) =>
          set.some(({ from, to }) => from <= row.packet.src && row.packet.src <= to),
        )!
        return { sender: senders.find((one) => one.name === name)!, packet: row.packet }
      })
      for (const { sender, packet } of [...asked, ...shown]) {
        if (packet === null) continue
        const was = worksIn(pair.before, sender.before, packet)
        const is = worksIn(pair.after, sender.after, packet)
        const own = rows.filter(({ kind }) => kind === 'opened' || kind === 'cut')
        const held = own.filter((row) => holds(row, sender.name, packet))
        const rank = { none: 0, some: 1, all: 2 } as Record<string, number>
        const expected =
          was === is
            ? []
            : [
                {
                  kind: rank[was]! < rank[is]! ? 'opened' : 'cut',
                  partly: was === 'some' || is === 'some',
                },
              ]
        if (sender.name === 'internet' || sender.name.startsWith('party:'))
          if (!isInside(pair, packet.dst)) continue
        if (expected.length > 0) differing++
        const told = { half, sender: sender.name, packet: say(packet), was, is }
        expect({ ...told, rows: held.map(({ kind, partly }) => ({ kind, partly })) }).toEqual({
          ...told,
          rows: expected,
        })
      }
    }),
    { numRuns: RUNS, seed: 32, examples: [[22], [102]] },
  )
  expect(differing).toBeGreaterThan(5)
})

/** What passes between two ends on the internet is none of the estate's. */
const isInside = ({ before, after }: Pair, address: Address): boolean =>
  [before, after].some(
    (model) =>
      model.publicOwners.has(address) || model.networks.some(({ owners }) => owners.has(address)),
  )

const say = (packet: Packet): string =>
  [packet.src, packet.dst, packet.protocol, packet.srcPort, packet.dstPort].join(' ')

test('no two rows can be joined, and none share a packet', () => {
  const pair = randomPair(118)
  const found = packetsAmong(pair, candidatesOf(pair))
  const again = texts(found)
  expect(again.length).toBeGreaterThan(0)
  expect(new Set(again).size).toBe(again.length)
  for (const [at, row] of found.rows.entries())
    for (const other of found.rows.slice(at + 1))
      if (row.kind === other.kind) {
        const same = fields(row).filter((field, k) => String(field) === String(fields(other)[k]))
        expect(same.length).toBeLessThan(4)
      }
})
