import { pointer } from '../../changes/index'
import type { InterfaceModel, Model, NatModel, SubnetModel } from '../../model/model'
import type { Mend } from '../mend'

/** Links the zone that has a private answer to a network. */
export function linkZone(model: Model, by: string, network: string): Mend | null {
  if (!by.startsWith('nameZones/')) return null
  const id = by.slice('nameZones/'.length)
  const zone = model.estate.nameZones.get(id)
  if (!zone) return null
  const linked = zone.linkedTo !== undefined
  const path = linked
    ? pointer('nameZones', id, 'linkedTo', '-')
    : pointer('nameZones', id, 'linkedTo')
  return {
    what: `link ${id} to ${network}`,
    changes: [{ op: 'add', path, value: linked ? network : [network] }],
  }
}

/**
 * Keeps a public address that may change: those of a translator that takes any it is given, or one
 * that its host may lose.
 */
export function keepAddress(
  model: Model,
  address: string,
  objects: readonly string[],
): Mend | null {
  const automatic = objects.flatMap((ref) => {
    const nat = ref.startsWith('nats/')
      ? model.estate.nats.get(ref.slice('nats/'.length))
      : undefined
    return nat?.allocation === 'automatic' && (nat.addresses ?? []).length > 0
      ? [ref.slice('nats/'.length)]
      : []
  })
  if (automatic.length > 0)
    return {
      what: `let ${automatic.join(', ')} keep the addresses it has`,
      changes: automatic.map((id) => ({
        op: 'replace',
        path: pointer('nats', id, 'allocation'),
        value: 'manual',
      })),
    }
  if (model.estate.publicAddresses.get(address)?.reserved !== false) return null
  const path = pointer('publicAddresses', address, 'reserved')
  return {
    what: `reserve ${address}, so that it stays`,
    changes: [{ op: 'replace', path, value: true }],
  }
}

/** Gives an interface the rule sets that all others of its subnet share. */
export function neighboursSets(
  model: Model,
  one: InterfaceModel,
  subnet: SubnetModel,
): Mend | null {
  const others = subnet.interfaces.filter(
    (index) => index !== one.index && model.index.interfaces.has(model.interfaces[index]!.id),
  )
  const [first, ...more] = others.map((index) =>
    (model.estate.interfaces.get(model.interfaces[index]!.id)?.ruleSets ?? []).filter((id) =>
      model.index.ruleSets.has(id),
    ),
  )
  if (
    first === undefined ||
    first.length === 0 ||
    more.some((sets) => sets.join() !== first.join())
  )
    return null
  const what = `give ${one.id} ${first.join(', ')}, as its neighbours in ${subnet.id} have`
  return {
    what,
    changes: [{ op: 'add', path: pointer('interfaces', one.id, 'ruleSets'), value: [...first] }],
  }
}

/** The fewest source ports that a host is given. */
const FEWEST_PORTS = 64

/** Gives each host as many ports as the translator has for all of them. */
export function sharePorts(nat: NatModel, served: number, offered: number): Mend | null {
  const value = Math.floor(offered / served)
  if (value < FEWEST_PORTS) return null
  const path = pointer('nats', nat.id, 'portsPerHost')
  return {
    what: `give each host behind ${nat.id} ${value} ports, or the translator another address`,
    changes: [{ op: 'add', path, value }],
  }
}

/** Gives an object tags that it lacks, where all of them are known; `why` says from whom. */
export function giveTags(
  section: string,
  id: string,
  tags: object | undefined,
  lacking: ReadonlyMap<string, string | undefined>,
  why: string,
): Mend | null {
  const given = [...lacking].flatMap(([key, value]) =>
    value === undefined ? [] : [[key, value] as const],
  )
  if (given.length < lacking.size) return null
  return {
    what: `tag ${id} ${given.map((one) => one.join('=')).join(', ')}, ${why}`,
    changes: tags
      ? given.map(([key, value]) => ({ op: 'add', path: pointer(section, id, 'tags', key), value }))
      : [{ op: 'add', path: pointer(section, id, 'tags'), value: Object.fromEntries(given) }],
  }
}
