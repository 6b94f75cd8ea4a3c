import type { Target } from '../../model/model'
import { askEdge } from '../ask-on-the-way'
import { arrive, lose, type State, type Step, type WalkContext } from '../state'
import { judge, policyWords } from './firewall'

/** Through an inline firewall's endpoint: its policy, then on from the endpoint's subnet by that subnet's table. */
export function enterInspect(
  context: WalkContext,
  state: State,
  target: Target & { kind: 'inspect' },
  table: string,
  network: number,
  fromSubnet: number,
): Step {
  const { model } = context
  const firewall = model.firewalls[target.index]
  const source = firewall?.source.style === 'inline' ? firewall.source : undefined
  const endpoint = source?.endpoints?.[target.endpoint]
  if (!firewall || !endpoint || endpoint.state === 'deleted') return lose(context, state, 'target-missing', table)
  const subnet = model.subnets[model.index.subnets.get(endpoint.subnet) ?? -1]
  if (!subnet) return lose(context, state, 'target-missing', table)
  const inspect = (s: State): Step => {
    const sendOn = (passed: State): Step => [
      { ...passed, next: { at: 'send', sender: { kind: 'edge', place: { subnet: subnet.index, interface: -1 }, ref: firewall.ref } } },
    ]
    const remember = (passed: State): State =>
      firewall.stateful && !passed.firewalls.includes(firewall.ref) ? { ...passed, firewalls: [...passed.firewalls, firewall.ref] } : passed
    if (context.answers?.firewalls.includes(firewall.ref)) {
      return sendOn(remember(arrive(context, s, { at: firewall.ref, kind: 'inspect', decision: () => `${target.endpoint}: knows the flow` })))
    }
    const judged = judge(context, s, firewall, null)
    if (judged.lost) return judged.lost((passed) => sendOn(remember(passed)))
    const decision = () => `${target.endpoint}: ${policyWords(judged.verdict)}`
    return sendOn(remember(arrive(context, s, { at: firewall.ref, kind: 'inspect', decision, evidence: () => ({ sides: null, policy: judged.verdict }) })))
  }
  const enter = (s: State): Step => (fromSubnet === subnet.index ? inspect(s) : askEdge(context, s, 'in', subnet.index, inspect))
  const mend = (what: string) => ({ what, then: enter })
  if (subnet.network !== network) return lose(context, state, 'target-elsewhere', firewall.ref, mend(`${firewall.id} is in this network`))
  if (!firewall.up || (endpoint.state ?? 'up') !== 'up' || !subnet.up) return lose(context, state, 'target-not-up', firewall.ref, mend(`${firewall.id} is up`))
  return enter(state)
}
