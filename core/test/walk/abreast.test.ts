import type { Address, Model } from '../../src/index'
import { familyOf } from '../../src/address/address'
import { TCP } from '../../src/packet/packet'
import { allPackets } from '../../src/packet/packet-set'
import { wayOf } from '../../src/trace/branch'
import { resume, partingFor, walkAbreast, type Parting } from '../../src/walk/abreast'
import { contextOf } from '../../src/walk/context'
import { startState, walk } from '../../src/walk/engine'
import { scopeOf } from '../../src/walk/fields'
import type { State, Walked } from '../../src/walk/state'
import { generateShape } from '../../../scripts/generator/shapes'
import { randomEstate } from '../random/estate'
import { runs } from '../random/runs'
import { modelOf } from '../trace/fixtures'

const said = ({ cause, deliveredAt, state }: Walked): string =>
  JSON.stringify([
    cause && [cause.code, cause.object],
    deliveredAt?.ref,
    wayOf(state.stations),
    state.leavesBy,
    state.seenAs,
  ])

const context = (model: Model, family: 4 | 6) =>
  contextOf({ model, about: 'routes', scope: scopeOf(allPackets(family)) })

/**
 * Some hosts to each so-manieth one, both ways of walking; the number of ends that were compared.
 */
function compare(model: Model, hosts: number, each = 1): number {
  let compared = 0
  const targets: Address[] = [0x01010101, 0x0a000001, 0xe0000001]
  for (const [at, one] of model.interfaces.entries())
    if (at % each === 0) targets.push(...one.addresses.slice(0, 1))
  for (const host of model.interfaces.slice(0, hosts)) {
    const place = { subnet: host.subnet, interface: host.index }
    const src = host.addresses[0]
    if (src === undefined || model.subnets[host.subnet] === undefined) continue
    const trail: Parting[] = []
    for (const dst of targets) {
      if (typeof dst !== typeof src) continue
      const packet = { src, dst, protocol: TCP, srcPort: 50000, dstPort: 443 }
      const start = (): State =>
        startState(packet, { at: 'send', sender: { kind: 'host', place, ref: host.ref } })
      const expected = walk(context(model, familyOf(dst)), start()).walks.map(said)
      expect(walkAbreast(context(model, familyOf(dst)), start(), []).map(said)).toEqual(expected)
      // Again, from where an earlier walk of this host first differed.
      const parting = partingFor(trail, dst)
      const scoped = context(model, familyOf(dst))
      if (parting) scoped.scope!.box = { ...parting.box }
      const resumed = parting && resume(scoped, parting, dst, trail)
      expect((resumed ?? walkAbreast(scoped, start(), trail)).map(said)).toEqual(expected)
      compared += expected.length
    }
  }
  return compared
}

test('branches that go on side by side end as branches that are followed one by one', () => {
  let compared = 0
  for (let seed = 0; seed < runs(12); seed++)
    compared += compare(modelOf(randomEstate(seed).estate), 12)
  expect(compared).toBeGreaterThan(1000)
})

test('a walk of more states than are kept ends as one that keeps none', () => {
  const relays = 500
  const relay = (at: number): string => `relay-${at}`
  const model = modelOf({
    format: 'salt-trail/1',
    name: 'long',
    networks: {
      n: {
        ranges: ['10.0.0.0/16'],
        behaviour: 'priority-routed',
        defaultRouteTable: 't',
      },
    },
    subnets: { s: { network: 'n', ranges: ['10.0.0.0/20'] } },
    interfaces: Object.fromEntries(
      Array.from({ length: relays }, (_, at) => [
        relay(at),
        {
          subnet: 's',
          addresses: [`10.0.${1 + Math.floor(at / 200)}.${1 + (at % 200)}`],
          forwards: true,
          tags: { [`at-${at}`]: '' },
        },
      ]),
    ),
    routeTables: {
      t: {
        network: 'n',
        routes: Array.from({ length: relays - 1 }, (_, at) => ({
          to: '0.0.0.0/0',
          via: { interface: relay(at + 1) },
          onlyTags: [`at-${at}`],
          priority: 100,
        })),
      },
    },
  })
  expect(compare(model, 1, relays)).toBeGreaterThan(2)
})

test('so do the branches along rows of forwarders, of which some lose packets', () => {
  expect(compare(modelOf(generateShape('chains', 80).estate), 4, 7)).toBeGreaterThan(1000)
})
