import { networkRange, publicAddress, subnetRange } from '../plan'
import type { Json } from '../draft'
import { isFaulty, putNetwork, putRegion, type MakeShape } from './shape'

const NETWORKS = 10
const RULES = 500

/**
 * A fifth as many subnets as asked for, in ten networks that are peered in a row, each with a list
 * of 500 ordered rules whose port ranges and peers overlap: 1,000 are 200 subnets and 100,000
 * rules. One list of ten opens SSH to the world, one forgets the ephemeral ports, one begins with
 * a rule that covers all others.
 */
export const ruleHeavy: MakeShape = (draft, subnets) => {
  putRegion(draft)
  const each = Math.round(subnets / 5 / NETWORKS)
  draft.put('ruleSets', 'own-rules', {
    rules: [
      { direction: 'out', protocol: 'any', peers: ['any'] },
      { direction: 'in', protocol: 'any', peers: ['any'] },
    ],
  })
  for (let number = 0; number < NETWORKS; number++) {
    const id = `rules-${number}`
    putNetwork(draft, number, id, each, {
      network: { defaultRouteTable: `${id}-table` },
      subnet: (at) => ({ boundary: `${id}-list-${at}` }),
    })
    draft.put('gateways', `${id}-door`, { kind: 'internet', network: id })
    for (let at = 0; at < each; at++) {
      const host = `${id}-s${at}-h0`
      draft.sections.interfaces![host] = {
        ...(draft.sections.interfaces![host] as object),
        publicAddress: publicAddress(number * each + at),
      }
      const list = `${id}-list-${at}`
      const [open, short, covered] = [0, 1, 2].map((offset) => isFaulty(number * each + at, offset))
      draft.put('ruleSets', list, {
        stateful: false,
        rules: listOf(number, at, { open: open!, short: short!, covered: covered! }),
      })
      if (open) draft.plant('open-to-internet', `ruleSets/${list}`)
      if (short) draft.plant('hole-ephemeral', `ruleSets/${list}`)
      if (covered) draft.plant('odd-shadowed-rule', `ruleSets/${list}`)
    }
    const next = (number + 1) % NETWORKS
    draft.put('peerings', `rules-${number}-${next}`, {
      a: { network: id },
      b: { network: `rules-${next}` },
    })
    draft.put('routeTables', `${id}-table`, {
      network: id,
      routes: [
        { to: '0.0.0.0/0', via: { gateway: `${id}-door` } },
        { to: networkRange(next), via: { peering: `rules-${number}-${next}` } },
        {
          to: networkRange((number + NETWORKS - 1) % NETWORKS),
          via: { peering: `rules-${(number + NETWORKS - 1) % NETWORKS}-${number}` },
        },
      ],
    })
  }
}

interface Faults {
  readonly open: boolean
  readonly short: boolean
  readonly covered: boolean
}

/** Half of the rules are for packets in, half for packets out; the last of each let answers pass. */
function listOf(number: number, at: number, { open, short, covered }: Faults): Json[] {
  const rules: Json[] = []
  const put = (direction: string, action: string, ports: string, peer: string): void =>
    void rules.push({
      order: rules.length + 1,
      direction,
      action,
      protocol: 'tcp',
      ports: [ports.includes('-') ? ports : Number(ports)],
      peers: [peer],
    })
  if (covered) put('out', 'allow', '0-65535', 'any')
  put('in', open ? 'allow' : 'deny', '22', 'any')
  for (let i = 0; rules.length < RULES - 4; i++) {
    const low = 1024 + ((number * 131 + at * 37 + i * 61) % 30000)
    const peer = i % 3 === 0 ? subnetRange(i % NETWORKS, i % 20) : networkRange(i % NETWORKS)
    put(
      i % 2 ? 'in' : 'out',
      i % 4 < 2 ? 'allow' : 'deny',
      `${low}-${low + 200 + (i % 5) * 400}`,
      peer,
    )
  }
  put('in', 'allow', '443', 'any')
  put('in', 'allow', '32768-65535', 'any')
  put('out', 'allow', '443', 'any')
  if (!short) put('out', 'allow', '1024-65535', 'any')
  return rules
}
