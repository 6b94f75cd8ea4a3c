import { changed } from './next-state'
import type { FirewallModel } from '../model/model'
import { sameField } from './scope'
import type { FirewallPass, State, WalkContext } from './state'

/** Notes that a packet met a firewall; one without state keeps nothing. */
export function meetFirewall(
  state: State,
  firewall: FirewallModel,
  endpoint: string | null,
): State {
  if (!firewall.stateful) return state
  const { packet, fields } = state
  const pass: FirewallPass = { ref: firewall.ref, endpoint, packet, fields }
  return changed(state, { firewalls: [...state.firewalls, pass] })
}

/**
 * Whether a firewall knows the flow that a packet answers. It knows a flow by the addresses and
 * ports of the packet that left it, so an answer that reaches it on the other side of a
 * translation, or at another endpoint, is unknown to it (design part 3.2).
 */
export function knowsFlow(
  context: WalkContext,
  { packet, fields }: Pick<State, 'packet' | 'fields'>,
  firewall: FirewallModel,
  endpoint: string | null,
): boolean {
  const answers = ({ packet: seen, fields: seenFields }: FirewallPass): boolean =>
    sameField(context, [packet.src, fields.src], [seen.dst, seenFields.dst]) &&
    sameField(context, [packet.dst, fields.dst], [seen.src, seenFields.src]) &&
    sameField(context, [packet.srcPort, fields.srcPort], [seen.dstPort, seenFields.dstPort]) &&
    sameField(context, [packet.dstPort, fields.dstPort], [seen.srcPort, seenFields.srcPort])
  const passes = context.answers?.firewalls ?? []
  return passes.some(
    (pass) => pass.ref === firewall.ref && pass.endpoint === endpoint && answers(pass),
  )
}
