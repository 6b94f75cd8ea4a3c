import { publicAddress, subnetAddress } from '../plan'
import type { Json } from '../draft'
import { isFaulty, putNetwork, putRegion, relayRules, type MakeShape } from './shape'

const EACH = 4

/**
 * Networks of a public and three private subnets, each with a public frontend, and a firewall that
 * publishes a port of each private subnet. In one network of ten answers go round the firewall, in
 * one a port of an administrator is published, in one a target is down.
 */
export const published: MakeShape = (draft, subnets) => {
  putRegion(draft)
  draft.put('ruleSets', 'own-rules', {
    rules: [
      { direction: 'out', protocol: 'any', peers: ['any'] },
      { direction: 'in', protocol: 'tcp', ports: [22, 8443], peers: ['any'] },
    ],
  })
  draft.put('ruleSets', 'edge-rules', relayRules('any'))
  for (let number = 0; number < Math.round(subnets / EACH); number++) {
    const id = `shop-${number}`
    const [round, admin, down] = [1, 2, 3].map((offset) => isFaulty(number, offset))
    putNetwork(draft, number, id, EACH, {
      subnet: (at) => ({ routeTable: at === 0 ? `${id}-public` : `${id}-private` }),
    })
    draft.put('gateways', `${id}-door`, { kind: 'internet', network: id })
    draft.put('routeTables', `${id}-public`, {
      network: id,
      routes: [{ to: '0.0.0.0/0', via: { gateway: `${id}-door` } }],
    })
    draft.put('nats', `${id}-nat`, {
      network: id,
      placement: { subnet: `${id}-s0` },
      addresses: [publicAddress(number * 4)],
    })
    draft.put('routeTables', `${id}-private`, {
      network: id,
      routes: [
        { to: '0.0.0.0/0', via: round ? { nat: `${id}-nat` } : { interface: `${id}-wall-edge` } },
      ],
    })
    draft.put('interfaces', `${id}-wall-edge`, {
      subnet: `${id}-s0`,
      addresses: [subnetAddress(number, 0, 20)],
      publicAddress: publicAddress(number * 4 + 1),
      forwards: true,
      ruleSets: ['edge-rules'],
    })
    draft.put('firewalls', `${id}-wall`, {
      style: 'routed',
      interfaces: { outside: `${id}-wall-edge` },
      policy: [{ order: 10, action: 'allow' }],
      sourceTranslation: [{ fromSide: 'outside', toSide: 'outside', use: 'interface' }],
      destinationTranslation: [1, 2, 3].map((at): Json => ({
        at: 'outside',
        protocol: 'tcp',
        port: 8000 + at,
        forward: {
          address: subnetAddress(number, at, 10),
          port: admin && at === 1 ? 22 : 8443,
        },
      })),
    })
    if (down) {
      const target = `${id}-s1-h1`
      const interfaces = draft.sections.interfaces!
      interfaces[target] = { ...(interfaces[target] as object), state: 'down' }
    }
    draft.put('frontends', `${id}-front`, {
      network: id,
      subnets: [`${id}-s0`],
      publicAddresses: [publicAddress(number * 4 + 2)],
      privateAddresses: [subnetAddress(number, 0, 30)],
      listeners: [
        {
          protocol: 'tcp',
          port: 443,
          targets: [1, 2, 3].map((at) => `${id}-s${at}-h1`),
          targetPort: 8443,
        },
      ],
      ruleSets: ['edge-rules'],
    })
    if (round) draft.plant('answers round the firewall', `firewalls/${id}-wall`)
    if (admin) draft.plant('open-to-internet', `firewalls/${id}-wall`)
    if (down) draft.plant('hole-dead-target', `frontends/${id}-front`)
  }
}
