import { networkRange } from '../plan'
import { isFaulty, OWN_RULES, putNetwork, putRegion, type MakeShape } from './shape'

/**
 * Default-open networks, each peered with each: twice the subnets are 1.4 × as many networks with
 * 1.4 × as many subnets each, and twice the peerings. In one network of ten the rules let nobody
 * of the organisation in, one network's door is open to the world by SSH, one sends the next
 * network's range to a peering that is gone.
 */
export const mesh: MakeShape = (draft, subnets) => {
  putRegion(draft)
  draft.put('ruleSets', 'own-rules', OWN_RULES)
  draft.put('ruleSets', 'open-rules', {
    rules: [
      ...(OWN_RULES.rules as object[]),
      { direction: 'in', protocol: 'tcp', ports: [22], peers: ['internet'] },
    ],
  })
  draft.put('ruleSets', 'deaf-list', {
    stateful: false,
    rules: [
      { order: 10, direction: 'out', action: 'allow', protocol: 'any', peers: ['any'] },
      {
        order: 20,
        direction: 'in',
        action: 'allow',
        protocol: 'tcp',
        ports: [443],
        peers: ['any'],
      },
    ],
  })
  const networks = Math.round(50 * Math.sqrt(subnets / 1000))
  const each = Math.round(subnets / networks)
  for (let number = 0; number < networks; number++) {
    const id = `mesh-${number}`
    const [deaf, open, dead] = [1, 2, 3].map((offset) => isFaulty(number, offset))
    if (dead)
      draft.put('routeTables', `${id}-table`, {
        network: id,
        routes: [{ to: networkRange((number + 1) % networks), via: { peering: `${id}-gone` } }],
      })
    putNetwork(draft, number, id, each, {
      network: {
        behaviour: 'default-open',
        implicitEgress: true,
        ...(dead ? { defaultRouteTable: `${id}-table` } : {}),
      },
      subnet: () => (deaf ? { boundary: 'deaf-list' } : {}),
      host: (at) => (open && at === 0 ? { ruleSets: ['open-rules'] } : {}),
    })
    if (open)
      draft.sections.interfaces![`${id}-s0-h0`] = {
        ...(draft.sections.interfaces![`${id}-s0-h0`] as object),
        publicAddress: `193.0.${number}.10`,
      }
    if (deaf) draft.plant('hole-ephemeral', `networks/${id}`)
    if (open) draft.plant('open-to-internet', `interfaces/${id}-s0-h0`)
    if (dead) draft.plant('hole-dead-target', `routeTables/${id}-table`)
    for (let other = 0; other < number; other++)
      draft.put('peerings', `mesh-${other}-${number}`, {
        a: { network: `mesh-${other}` },
        b: { network: id },
      })
  }
}
