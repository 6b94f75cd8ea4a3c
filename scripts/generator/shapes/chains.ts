import { publicAddress, subnetAddress } from '../plan'
import type { Draft, Json } from '../draft'
import {
  isFaulty,
  OWN_RULES,
  putNetwork,
  putRegion,
  REGION,
  relayRules,
  type MakeShape,
} from './shape'

export const CHAIN = 20

/**
 * Priority-routed networks of 20 subnets with a row of 20 stages each: a stage is two forwarders,
 * and two routes of equal cost lead from each stage to the next. One network of ten has a
 * forwarder that does not forward, one a last stage without a way on, one a stage whose rules
 * refuse what passes.
 */
export const chains: MakeShape = (draft, subnets) => {
  putRegion(draft)
  draft.put('ruleSets', 'own-rules', OWN_RULES)
  draft.put('ruleSets', 'relay-rules', relayRules('any'))
  draft.put('ruleSets', 'refuse-rules', {
    rules: [{ direction: 'out', protocol: 'any', peers: ['any'] }],
  })
  const networks = Math.round(subnets / CHAIN)
  for (let number = 0; number < networks; number++) putChain(draft, number)
}

function putChain(draft: Draft, number: number): void {
  const id = `chain-${number}`
  const [deaf, ends, refuses] = [1, 2, 3].map((offset) => isFaulty(number, offset))
  putNetwork(draft, number, id, CHAIN, {
    network: { behaviour: 'priority-routed', defaultRouteTable: `${id}-table` },
    host: () => ({ tags: { 'stage-0': 'yes' } }),
  })
  draft.put('gateways', `${id}-door`, { kind: 'internet', network: id })
  const routes: Json[] = []
  for (let stage = 1; stage <= CHAIN; stage++)
    for (const side of ['a', 'b']) {
      const relay = `${id}-${stage}${side}`
      const isFaultyStage = stage === CHAIN / 2 && side === 'a'
      draft.put('interfaces', relay, {
        subnet: `${id}-s${stage - 1}`,
        addresses: [subnetAddress(number, stage - 1, side === 'a' ? 20 : 21)],
        forwards: !(deaf && isFaultyStage),
        ruleSets: [refuses && isFaultyStage ? 'refuse-rules' : 'relay-rules'],
        tags: { [`stage-${stage}`]: 'yes' },
      })
      routes.push({
        to: '0.0.0.0/0',
        via: { interface: relay },
        onlyTags: [`stage-${stage - 1}`],
        priority: 100,
      })
    }
  if (!ends)
    routes.push({
      to: '0.0.0.0/0',
      via: { gateway: `${id}-door` },
      onlyTags: [`stage-${CHAIN}`],
      priority: 100,
    })
  draft.put('nats', `${id}-nat`, {
    network: id,
    placement: { region: REGION },
    addresses: [publicAddress(number)],
  })
  draft.put('routeTables', `${id}-table`, { network: id, routes })
  if (deaf) draft.plant('hole-next-hop', `interfaces/${id}-10a`)
  if (ends) draft.plant('hole-no-way-out', `networks/${id}`)
  if (refuses) draft.plant('denied-interface', `interfaces/${id}-10a`)
}
