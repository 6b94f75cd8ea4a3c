import { derived } from '../incremental/derived'
import type { Address } from '../address/address'
import { AddressMap } from '../address/address-map'
import type { Range } from '../address/ranges'
import { eachFlow, type Flow } from '../flows/flow'
import { outcomeAt, type HopTable } from '../hops/hops'
import type { Model, SubnetModel } from '../model/model'
import { allPackets, boxWith, type PacketBox } from '../packet/packet-set'
import { passing } from '../rules/passing'
import { samePlace, type Place } from '../rules/place'
import { endOf, type CheckContext } from './survey'

/**
 * A flow from a kind of host to an address that is delivered, rules and all, with its answers; null
 * where there is none. Rules are asked as sets first: most of what is not delivered needs no walk,
 * and of the rest the first is nearly always the one.
 */
export function deliveredFlow(
  { model, memo }: CheckContext,
  subnet: SubnetModel,
  table: HopTable,
  src: Address,
  dst: Address,
  { protocol, wanted = isAny }: Wanted = {},
): Flow | null {
  const fare = outcomeAt(model, subnet, table, dst, memo)
  // Of several branches the worst is told; another may deliver.
  if (fare === null || (fare.cause !== null && fare.ways.length === 1)) return null
  const all = allPackets(typeof dst === 'number' ? 4 : 6)
  const one = boxWith(all, {
    src: { from: src, to: src },
    dst: { from: dst, to: dst },
    protocol: protocol ?? all.protocol,
  })
  // Whether it crosses the subnet's edge is for the walk: the boundary is asked there.
  const sent =
    table.kind.interfaces.length === 0
      ? [one]
      : passing(model, { direction: 'out', place: table.kind.place, crosses: false }, [one])
  const taken = fare.seenAs.length === 0 ? takenAt(model, dst, sent) : sent
  const boxes = [...taken].sort((a, b) => Number(a.protocol.from) - Number(b.protocol.from))
  let delivered: Flow | null = null
  let others = 0
  eachFlow(model, endOf(table), boxes, true, (flow) => {
    if (!flow.branches.some((branch) => branch.delivered)) return false
    if (wanted(flow)) delivered = flow
    return delivered !== null || ++others === MOST_OTHERS
  })
  return delivered
}

interface Wanted {
  /** Places of the protocols that are asked for; left out, all are. */
  readonly protocol?: Range
  /** Which of the delivered flows is wanted. */
  readonly wanted?: (flow: Flow) => boolean
}

const isAny = (): boolean => true

/** After so many that are delivered and not wanted, no more are looked at. */
const MOST_OTHERS = 400

/**
 * The part of some boxes that the rules of the address's owner let in; all of it where that is not
 * for sure.
 */
function takenAt(model: Model, dst: Address, boxes: readonly PacketBox[]): readonly PacketBox[] {
  const place = holderOf(model, dst)
  return place ? passing(model, { direction: 'in', place, crosses: false }, boxes) : boxes
}

/**
 * The one interface that has an address; null where there are several, or a firewall might send it
 * elsewhere.
 */
const holderOf = derived(
  (model: Model, address: Address): Place | null => holdersOf(model).get(address) ?? null,
  { same: (a, b) => a === b || (a !== null && b !== null && samePlace(a, b)) },
)

const holdersOf = derived((model: Model) => holders(model))

function holders(model: Model): ReadonlyMap<Address, Place | null> {
  const made = new AddressMap<Place | null>()
  for (const { owners } of model.networks) {
    for (const [address, owner] of owners) {
      const plain =
        owner.kind === 'interface' && !model.firewallAt.has(owner.index) && !made.has(address)
      made.set(
        address,
        plain ? { subnet: model.interfaces[owner.index]!.subnet, interface: owner.index } : null,
      )
    }
  }
  return made
}
