import { familyOf, formatAddress, parseAddress, type Address } from '../../address/address'
import { longestMatch, matchAll } from '../../address/prefix-table'
import type { FirewallModel, FrontendModel, Model } from '../../model/model'
import { presentOf } from '../../model/present'
import { protocolName } from '../../packet/packet'
import type { Question } from '../../trace/question'
import { finding, type Finding } from '../finding'
import { attributeOf, type Root } from '../root'
import { check, internetText, nameOf } from '../survey'

/**
 * Hosts that packets are handed to by name or address, and that are not there or not up: a
 * frontend's targets, and those that a firewall forwards ports to.
 */
export const checkPublished = [
  check(
    'elements',
    ({ model }) => presentOf(model, 'frontends'),
    ({ model }, index) => deadTargetsOf(model, model.frontends[index]!),
  ),
  check(
    'elements',
    ({ model }) => presentOf(model, 'firewalls'),
    ({ model }, index) => deadForwards(model, model.firewalls[index]!),
  ),
]

/** The interfaces of an addressed endpoint that are not up. */
export const checkEndpointInterfaces = check(
  'elements',
  ({ model }) => [...model.index.endpoints.keys()],
  ({ model }, id) => {
    const endpoint = model.estate.endpoints.get(id)!
    if (endpoint.style !== 'addressed' || (endpoint.state ?? 'up') !== 'up') return []
    const ids = endpoint.interfaces ?? []
    const dead = ids.flatMap((one) => deadInterface(model, one) ?? [])
    return dead.map(({ interface: one, why }) => {
      const { addresses, subnet, state } = model.estate.interfaces.get(nameOf(one)) ?? {}
      // A trace takes an address nobody is known to have for one that answers.
      const to = state === 'deleted' ? undefined : addresses?.[0]
      const from = askingIn(model, endpoint.network, subnet)
      return lost(model, `endpoints/${id}`, one, {
        sentence: `${id} is asked at ${nameOf(one)}, which ${why}.${from === null ? ' Nothing is sent there now.' : ''}`,
        isWhole: dead.length === ids.length,
        question: to === undefined || from === null ? undefined : { from, to },
      })
    })
  },
)

/** A subnet of a network that asks, if there is one: another than the one that is asked. */
function askingIn(
  model: Model,
  network: string | undefined,
  asked: string | undefined,
): string | null {
  const index = model.index.networks.get(network ?? '')
  const others = (index === undefined ? [] : model.networks[index]!.subnets)
    .map((one) => model.subnets[one]!)
    .filter(({ up }) => up)
  const one = others.find(({ id }) => id !== asked) ?? others[0]
  return one ? `subnet:${one.id}` : null
}

/** A question whose packet is handed on, and lost. */
type Asked = Partial<Question> & Pick<Question, 'from' | 'to'>

interface Dead {
  /** The interface, as `section/id`. */
  readonly interface: string
  readonly why: string
}

/** Why an interface takes no packets; null where it does. */
function deadInterface(model: Model, id: string): Dead | null {
  const index = model.index.interfaces.get(id)
  const one = index === undefined ? undefined : model.interfaces[index]
  if (one?.up) return null
  const state = model.estate.interfaces.get(id)?.state ?? 'up'
  return {
    interface: `interfaces/${id}`,
    why: state === 'up' ? 'stands in a subnet that is not up' : `is ${state}`,
  }
}

/** Targets of a frontend that are not up: those who ask are lost as often as it chooses them. */
function deadTargetsOf(model: Model, frontend: FrontendModel): Finding[] {
  if (!frontend.up) return []
  const listeners = model.estate.frontends.get(frontend.id)?.listeners ?? []
  return frontend.listeners.flatMap(({ protocol, port }, at) => {
    const targets = listeners[at]?.targets ?? []
    const dead = targets.flatMap((id) => deadInterface(model, id) ?? [])
    const asked = `${protocol === null ? 'any' : protocolName(protocol)} ${port}`
    return dead.map(({ interface: one, why }) =>
      lost(model, frontend.ref, one, {
        sentence: `${frontend.id} hands what asks for ${asked} to ${nameOf(one)}, which ${why}.`,
        isWhole: dead.length === targets.length,
        question: askFrontend(model, frontend, protocol, port),
      }),
    )
  })
}

function askFrontend(
  model: Model,
  { id, subnet, addresses }: FrontendModel,
  protocol: number | null,
  port: number,
): Asked | undefined {
  const isPublic = (model.estate.frontends.get(id)?.publicAddresses ?? []).length > 0
  if (!isPublic && (addresses.length === 0 || subnet < 0)) return undefined
  return {
    from: isPublic ? 'internet' : `subnet:${model.subnets[subnet]!.id}`,
    to: `frontend:${id}`,
    protocol: protocol === null ? 'tcp' : protocolName(protocol),
    port,
  }
}

/** Ports that a firewall forwards to a host that is not there, or not up. */
function deadForwards(model: Model, firewall: FirewallModel): Finding[] {
  const { source } = firewall
  if (!firewall.up || source.style !== 'routed') return []
  return (source.destinationTranslation ?? []).flatMap(({ at, protocol, port, forward }) => {
    const address = parseAddress(forward.address)
    const dead = address === null ? null : deadHost(model, address)
    if (dead === null) return []
    const side = firewall.interfaces.find(({ label }) => label === at)
    const own = side && model.interfaces[side.interface]!
    const asked = own?.publicAddress ?? own?.addresses[0]
    const isPublic = own?.publicAddress != null
    return [
      lost(model, firewall.ref, dead.interface, {
        part: `${at} ${protocol} ${port}`,
        sentence: `${firewall.id} forwards ${protocol} ${port} to ${forward.address}, which ${dead.why}.${asked === undefined ? ' Nothing is sent there now.' : ''}`,
        isWhole: dead.interface !== null,
        // A trace takes an address nobody is known to have for one that answers.
        question:
          asked === undefined || dead.interface === null
            ? undefined
            : {
                from: isPublic
                  ? internetText(model, familyOf(asked))
                  : `subnet:${model.subnets[own!.subnet]!.id}`,
                to: formatAddress(asked),
                protocol,
                port,
              },
      }),
    ]
  })
}

/** Why nobody takes packets for an address of a subnet; null where somebody does. */
function deadHost(
  model: Model,
  address: Address,
): { readonly interface: string | null; readonly why: string } | null {
  const networks = matchAll(model.networkSpace, address)
    .groups.flatMap(({ values }) => values)
    .map((network) => model.networks[network]!)
    .filter(({ subnetSpace }) => longestMatch(subnetSpace, address).length > 0)
  const owners = networks.flatMap((network) => network.owners.get(address) ?? [])
  // Of an address that several networks have, one that is up is enough to say nothing.
  if (networks.length === 0 || owners.some((one) => one.kind !== 'interface')) return null
  const dead = owners.map(({ index }) => deadInterface(model, model.interfaces[index]!.id))
  if (owners.length === 0) return { interface: null, why: 'nobody has' }
  return dead.every((one) => one !== null) ? dead[0]! : null
}

function lost(
  model: Model,
  anchor: string,
  target: string | null,
  said: {
    readonly sentence: string
    readonly isWhole: boolean
    readonly part?: string
    readonly question: Asked | undefined
  },
): Finding {
  const subnet = target && model.estate.interfaces.get(nameOf(target))?.subnet
  const root: Root =
    target === null
      ? { kind: 'missing-object', object: anchor, part: 'interfaces' }
      : attributeOf(target, 'state')
  return finding({
    code: 'hole-dead-target',
    // What has other targets is lost only as often as this one is chosen.
    severity: said.isWhole ? 'high' : 'medium',
    anchor,
    objects: [anchor, target, subnet ? `subnets/${subnet}` : null],
    sentence: said.sentence,
    part: `${target ?? ''} ${said.part ?? ''}`,
    root,
    question: said.question,
  })
}
