import { longestMatch } from '../address/prefix-table'
import { isPublic } from '../address/public'
import { rangesContain } from '../address/ranges'
import { changed, finish } from './next-state'
import type { State, Step, WalkContext } from './state'
import { standInAddress } from './public-address'
import { leaveByGateway } from './steps/gateway'

/**
 * Beyond a missing answer: the packet goes on as if the network had handed it towards its
 * destination in the most ordinary way, by its own internet gateway or straight to the subnet that
 * has the address.
 */
export function handOver(context: WalkContext, state: State, network: number): Step {
  const { model } = context
  const { dst, src } = state.packet
  const homes = longestMatch(model.subnetSpace, dst)
  const home = homes.find((subnet) => model.subnets[subnet]!.network === network) ?? homes[0]
  if (home !== undefined && !rangesContain(model.internetSpace, dst)) {
    return [
      changed(state, {
        next: { at: 'local', network: model.subnets[home]!.network, fromSubnet: -1 },
      }),
    ]
  }
  if (!isPublic(dst)) return [finish(state, null)]
  const gateway = model.attached.gateways.get(network)?.find((g) => g.up && g.kind === 'internet')
  if (gateway) return leaveByGateway(context, state, gateway.index)
  const packet =
    isPublic(src) || typeof src !== 'number'
      ? state.packet
      : { ...state.packet, src: standInAddress(model) }
  return [changed(state, { packet, next: { at: 'outside' } })]
}
