import type { Model, SubnetModel } from '../model/model'
import type { ExitWay } from './exits'

/** The three kinds of problem: traffic goes where it should not, is lost, or works but not as it seems. */
export type Mark = 'leak' | 'hole' | 'weak'

/**
 * What is wrong with a way to the internet at first sight, before findings look closer: a subnet
 * declared private or isolated that leaves directly, or one that is not isolated and loses packets.
 * That a subnet without hosts gives no public addresses is no problem: nobody there wants one yet.
 */
export function markOf(model: Model, subnet: SubnetModel, way: Pick<ExitWay, 'kind' | 'leavesBy' | 'cause'>, occupied: boolean): Mark | null {
  if (way.kind === 'direct') {
    const outboundOnly = model.gateways.some((g) => g.ref === way.leavesBy && g.kind === 'outbound-v6')
    return (subnet.role === 'private' || subnet.role === 'isolated') && !outboundOnly ? 'leak' : null
  }
  if (way.cause === null || way.cause.code === 'drop-route') return null
  if (way.cause.code === 'no-public-address' && !occupied) return null
  return way.cause.code === 'no-route' && subnet.role === 'isolated' ? null : 'hole'
}
