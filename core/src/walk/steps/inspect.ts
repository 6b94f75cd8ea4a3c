import type { Model, Target } from '../../model/model'
import { askEdge } from '../ask-on-the-way'
import { arrive, lose, type State, type Step, type WalkContext } from '../state'
import { knowsFlow, meetFirewall } from '../flow-state'
import { askedPolicy, judge, policyWords } from './firewall'

/** The subnet an inline firewall's endpoint stands in; undefined where there is no such endpoint. */
export function endpointSubnet(
  model: Model,
  target: Target & { kind: 'inspect' },
): number | undefined {
  const { source } = model.firewalls[target.index] ?? {}
  const endpoint = source?.style === 'inline' ? source.endpoints?.[target.endpoint] : undefined
  return endpoint && model.index.subnets.get(endpoint.subnet)
}

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
  if (!firewall || !endpoint || endpoint.state === 'deleted')
    return lose(context, state, 'target-missing', table)
  const subnet = model.subnets[model.index.subnets.get(endpoint.subnet) ?? -1]
  if (!subnet) return lose(context, state, 'target-missing', table)
  const inspect = (s: State): Step => {
    const sendOn = (passed: State): Step => [
      {
        ...passed,
        next: {
          at: 'send',
          sender: {
            kind: 'edge',
            place: { subnet: subnet.index, interface: -1 },
            ref: firewall.ref,
          },
        },
      },
    ]
    const remember = (passed: State): State => meetFirewall(passed, firewall, target.endpoint)
    if (knowsFlow(context, s, firewall, target.endpoint)) {
      return sendOn(
        remember(
          arrive(context, s, {
            at: firewall.ref,
            kind: 'inspect',
            decision: () => `${target.endpoint}: knows the flow`,
          }),
        ),
      )
    }
    const judged = judge(context, s, firewall, { sides: null, endpoint: target.endpoint })
    if (judged.lost) return judged.lost(sendOn)
    const decision = () => `${target.endpoint}: ${policyWords(judged.verdict)}`
    const evidence = () => ({ sides: null, policy: judged.verdict })
    const asked = askedPolicy(firewall, s, null)
    return sendOn(
      remember(
        arrive(context, s, { at: firewall.ref, kind: 'inspect', decision, evidence, asked }),
      ),
    )
  }
  const enter = (s: State): Step =>
    fromSubnet === subnet.index ? inspect(s) : askEdge(context, s, 'in', subnet.index, inspect)
  const mend = (what: string) => ({ what, then: enter })
  if (subnet.network !== network)
    return lose(
      context,
      state,
      'target-elsewhere',
      firewall.ref,
      mend(`${firewall.id} is in this network`),
    )
  if (!firewall.up || (endpoint.state ?? 'up') !== 'up' || !subnet.up)
    return lose(context, state, 'target-not-up', firewall.ref, mend(`${firewall.id} is up`))
  return enter(state)
}
