import { askHost } from '../ask-on-the-way'
import { changed, arrive } from '../next-state'
import type { State, Step, WalkContext } from '../state'
import { passFirewall } from './firewall'

/**
 * A packet reaches an interface as its next hop: its rules are asked as for any packet, then it is
 * the appliance's.
 */
export function reachForwarder(
  context: WalkContext,
  state: State,
  index: number,
  fromSubnet: number,
): Step {
  const { model } = context
  const one = model.interfaces[index]!
  const place = { subnet: one.subnet, interface: index }
  return askHost(context, state, 'in', place, fromSubnet !== one.subnet, (asked) => {
    const side = model.firewallAt.get(index)
    if (side) return passFirewall(context, asked, side)
    const passed = arrive(context, asked, {
      at: one.ref,
      kind: 'firewall',
      decision: 'forwards it from its own subnet',
    })
    return [
      changed(passed, { next: { at: 'send', sender: { kind: 'appliance', place, ref: one.ref } } }),
    ]
  })
}
