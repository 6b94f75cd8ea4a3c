import type { FirewallModel, Model } from '../../model/model'
import type { TargetOf } from '../../model/targets'
import { askEdge } from '../ask-on-the-way'
import { changed, arrive } from '../next-state'
import type { State, Step, WalkContext } from '../state'
import { knowsFlow, meetFirewall } from '../flow-state'
import { askedPolicy, judge, policyWords } from './firewall'

type Target = TargetOf<'inspect'>

/** The endpoint that a next hop names; undefined where the firewall has none of that label. */
export function endpointOf(model: Model, { index, endpoint }: Target) {
  const { source } = model.firewalls[index] ?? {}
  return source?.style === 'inline' ? source.endpoints?.[endpoint] : undefined
}

/** The number of the subnet that an endpoint stands in; undefined where there is none. */
export function endpointSubnet(model: Model, target: Target): number | undefined {
  const endpoint = endpointOf(model, target)
  return endpoint && model.index.subnets.get(endpoint.subnet)
}

/**
 * Through an endpoint of an inline firewall that is there: across the subnet's edge, its policy,
 * then on from the endpoint's subnet by that subnet's table.
 */
export function enterInspect(
  context: WalkContext,
  state: State,
  target: Target,
  fromSubnet: number,
): Step {
  const { model } = context
  const firewall = model.firewalls[target.index]!
  const subnet = endpointSubnet(model, target)!
  const pass = (s: State): Step => passEndpoint(context, s, firewall, target.endpoint, subnet)
  return fromSubnet === subnet ? pass(state) : askEdge(context, state, 'in', subnet, pass)
}

function passEndpoint(
  context: WalkContext,
  state: State,
  firewall: FirewallModel,
  label: string,
  subnet: number,
): Step {
  const { ref } = firewall
  const place = { subnet, interface: -1 }
  const sendOn = (s: State): Step => [
    changed(s, { next: { at: 'send', sender: { kind: 'edge', place, ref } } }),
  ]
  const remember = (s: State): State => meetFirewall(s, firewall, label)
  if (knowsFlow(context, state, firewall, label)) {
    const decision = () => `${label}: knows the flow`
    return sendOn(remember(arrive(context, state, { at: ref, kind: 'inspect', decision })))
  }
  const judged = judge(context, state, firewall, { sides: null, endpoint: label })
  if (judged.lost) return judged.lost(sendOn)
  const decision = () => `${label}: ${policyWords(judged.verdict)}`
  const evidence = () => ({ sides: null, policy: judged.verdict })
  const asked = askedPolicy(firewall, state, null)
  const passed = arrive(context, state, { at: ref, kind: 'inspect', decision, evidence, asked })
  return sendOn(remember(passed))
}
