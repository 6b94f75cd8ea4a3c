import type { Packet } from '../../src/packet/packet'
import { ruleBook, type SetModel } from '../../src/rules/rule-book'
import type { Random } from '../random/random'
import { modelOf } from '../trace/fixtures'
import { parseAddress, type Address } from '../../src/address/address'

const PEERS = ['any', '10.0.0.0/8', '10.1.0.0/16', '10.1.2.0/24', '172.20.0.0/16', '10.1.2.3/32']
const PORTS = [22, 443, 1024, 50000]

/** A stateless list of some rules, ordered, whose ports and far sides overlap, as a subnet's edge. */
export function randomList(r: Random, length: number): SetModel {
  const span = (): string | number => {
    const low = r.pick(PORTS)
    return r.chance(50) ? low : `${low}-${Math.min(low + r.pick([1, 500, 40000]), 65535)}`
  }
  const rules = Array.from({ length }, (_, at) => {
    const protocol = r.pick(['tcp', 'tcp', 'udp', 'any'])
    return {
      order: at + 1,
      direction: r.pick(['in', 'out']),
      action: r.pick(['allow', 'deny']),
      protocol,
      ...(protocol === 'any' || r.chance(20)
        ? {}
        : { ports: Array.from({ length: 1 + Number(r.chance(20)) }, span) }),
      ...(protocol !== 'any' && r.chance(15) ? { sourcePorts: [span()] } : {}),
      peers: [r.pick(PEERS)],
      ...(r.chance(15) ? { local: [r.pick(['10.2.0.0/16', '10.2.0.9/32'])] } : {}),
    }
  })
  return listOf(rules, r.pick([{}, { in: 'allow' }]))
}

/** A stateless list of some rules. */
export function listOf(rules: readonly object[], otherwise: object = {}): SetModel {
  const model = modelOf({
    format: 'salt-trail/1',
    name: 'A list',
    networks: { n: { ranges: ['10.2.0.0/16'] } },
    subnets: { s: { network: 'n', ranges: ['10.2.0.0/24'], boundary: 'list' } },
    ruleSets: { list: { stateful: false, rules, otherwise } },
  })
  return ruleBook(model).set(0)
}

/** Whether an address is on the side of the list. */
export const isNear = (address: Address): boolean =>
  typeof address === 'number' && address >>> 16 === ((10 << 8) | 2)

const addressOf = (text: string): number => parseAddress(text) as number

/** A packet between some of the addresses and ports that such lists tell apart. */
export function randomPacket(r: Random): Packet {
  const near = addressOf(r.pick(['10.2.0.9', '10.2.0.20']))
  const far = addressOf(r.pick(['10.1.2.3', '10.1.2.4', '10.1.9.9', '10.9.9.9', '172.20.1.1']))
  const port = (): number => {
    const around = r.pick(PORTS) + r.pick([0, 1, -1, 500, 501])
    return Math.max(0, Math.min(around, 65535))
  }
  const [src, dst] = r.chance(50) ? [near, far] : [far, near]
  return { src, dst, protocol: r.pick([6, 17]), srcPort: port(), dstPort: port() }
}
