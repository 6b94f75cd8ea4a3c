import { addressPlus, type Address } from '../address/address'
import { addressOf, containsAddress, lastAddress, type Prefix } from '../address/prefix'
import type { EstateObject } from '../format/estate'
import { protocolNumber, TCP } from '../packet/packet'
import type { Compiled, FrontendModel, Model, SubnetModel } from './model'

/**
 * A frontend with its first private address; one that names none takes the first usable of its
 * first subnet.
 */
export function compileFrontend(
  index: Model['index'],
  subnets: readonly SubnetModel[],
  source: EstateObject<'frontends'>,
  base: Compiled,
): FrontendModel {
  const listed = (source.subnets ?? []).flatMap((id) => subnets[index.subnets.get(id) ?? -1] ?? [])
  const written = (source.privateAddresses ?? []).map(addressOf)
  const fallback = listed[0]?.ranges[0]
  const addresses = written.length > 0 ? written : fallback ? [firstUsable(fallback)] : []
  const network = index.networks.get(source.network ?? '') ?? -1
  const home = [...listed, ...subnets.filter((s) => s.network === network)].find(
    (s) => addresses[0] !== undefined && s.allRanges.some((r) => containsAddress(r, addresses[0]!)),
  )
  const subnet = home ?? listed[0]
  return {
    ...base,
    up: base.up && (subnet?.up ?? false),
    network,
    subnet: subnet?.index ?? -1,
    addresses,
    ruleSets: (source.ruleSets ?? [])
      .map((id) => index.ruleSets.get(id) ?? -1)
      .filter((i) => i >= 0),
    listeners: (source.listeners ?? []).map((listener) => ({
      protocol:
        listener.protocol === undefined
          ? TCP
          : listener.protocol === 'any'
            ? null
            : protocolNumber(listener.protocol),
      port: listener.port,
      targetPort: listener.targetPort ?? listener.port,
      targets: (listener.targets ?? []).map((id) => index.interfaces.get(id) ?? -1),
    })),
  }
}

const firstUsable = (range: Prefix): Address =>
  typeof range.address === 'number' && (lastAddress(range) as number) - range.address > 5
    ? addressPlus(range.address, 4)
    : range.address
