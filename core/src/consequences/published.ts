import { parseAddress, type Address } from '../address/address'
import { addressOf, hostPrefix } from '../address/prefix'
import { rangeSetOf, type RangeSet } from '../address/ranges'
import { derived } from '../incremental/derived'
import type { Model } from '../model/model'

/** What a frontend or a translating firewall publishes: addresses that lead on to other hosts. */
export interface Published {
  readonly addresses: RangeSet
  /** The subnets it sends on from, by id. */
  readonly subnets: readonly string[]
  /** The interfaces it leads to, by number. */
  readonly targets: readonly number[]
}

/** Everything published, in the order of frontends and firewalls. Cached with the model. */
export const publishedBy = derived((model: Model): readonly Published[] => [
  ...model.frontends.map(({ id, addresses, subnet, listeners }): Published => {
    const open = model.estate.frontends.get(id)?.publicAddresses ?? []
    return {
      addresses: rangeSetOf([
        ...addresses.map(hostPrefix),
        ...open.map((text) => hostPrefix(addressOf(text))),
      ]),
      subnets: [model.subnets[subnet]?.id ?? ''],
      targets: listeners.flatMap(({ targets }) => targets.filter((index) => index >= 0)),
    }
  }),
  ...model.firewalls.flatMap(({ source, interfaces }): Published[] => {
    if (source.style !== 'routed' || !source.destinationTranslation?.length) return []
    const sides = interfaces.map((side) => model.interfaces[side.interface]!)
    return [
      {
        addresses: rangeSetOf(
          sides.flatMap((one) => [
            ...one.addresses.map(hostPrefix),
            ...(one.publicAddress === null ? [] : [hostPrefix(one.publicAddress)]),
          ]),
        ),
        subnets: sides.flatMap(({ subnet }) => model.subnets[subnet]?.id ?? []),
        targets: source.destinationTranslation.flatMap(({ forward }) => {
          const address = parseAddress(forward.address)!
          return model.interfaces.flatMap(({ index, addresses }) =>
            addresses.includes(address) ? [index] : [],
          )
        }),
      },
    ]
  }),
])

/** Every address that something may translate sources to. Cached with the model. */
export const translatorAddresses = derived((model: Model): RangeSet => {
  const own: Address[] = [
    ...model.nats.flatMap((nat) => [...nat.addresses, ...nat.rules.flatMap((rule) => rule.use)]),
    ...model.publicOwners.keys(),
    ...model.frontends.flatMap(({ addresses }) => addresses),
  ]
  const written = model.firewalls.flatMap(({ source, interfaces }) => {
    if (source.style !== 'routed') return []
    const pools = (source.sourceTranslation ?? []).flatMap(({ use }) =>
      use === 'interface' ? [] : use.map((text) => hostPrefix(addressOf(text))),
    )
    const sides = interfaces.flatMap((side) => model.interfaces[side.interface]!.addresses)
    return [...pools, ...sides.map(hostPrefix)]
  })
  return rangeSetOf([...own.map(hostPrefix), ...written])
})
