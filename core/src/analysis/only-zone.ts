import type { ExitRow } from '../exits/exits'
import { splitRef } from '../format/ref'
import type { Model } from '../model/model'

/**
 * The one zone that all of a subnet's ways to the internet and to services pass, where it is not
 * the subnet's own: the loss of that zone takes the subnet's way out with it. Null where a way
 * passes no zone, or they pass several. Costs a step for each element of its ways.
 */
export function onlyZone(model: Model, row: ExitRow): string | null {
  const own = model.subnets[model.index.subnets.get(row.subnet) ?? -1]?.zone ?? null
  const ways = [...row.internet, ...row.services].filter(({ cause }) => cause === null)
  const zones = ways.map((way) => new Set(way.way.flatMap((ref) => zonesOf(model, ref))))
  const [first] = zones
  if (!first || first.size !== 1) return null
  const [zone] = first
  const alike = zones.every((one) => one.size === 1 && one.has(zone!))
  return alike && zone !== own ? zone! : null
}

/** The zones in which what a way passes stands; none for what spans its region. */
function zonesOf(model: Model, ref: string): string[] {
  const { estate } = model
  const [section, id] = splitRef(ref)
  const ofSubnet = (subnet: string | undefined): string[] => {
    const zone = estate.subnets.get(subnet ?? '')?.zone
    return zone === undefined ? [] : [zone]
  }
  if (section === 'nats') return ofSubnet(estate.nats.get(id)?.placement?.subnet)
  if (section === 'interfaces') return ofSubnet(estate.interfaces.get(id)?.subnet)
  if (section !== 'firewalls') return []
  const known = estate.firewalls.get(id)
  if (known?.style === 'routed')
    return [
      ...new Set(
        Object.values(known.interfaces ?? {}).flatMap((one) =>
          ofSubnet(estate.interfaces.get(one)?.subnet),
        ),
      ),
    ]
  const endpoints = Object.values(known?.endpoints ?? {})
  return [...new Set(endpoints.flatMap(({ subnet }) => ofSubnet(subnet)))]
}
