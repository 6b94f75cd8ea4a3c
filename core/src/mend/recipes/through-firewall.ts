import { parseAddress } from '../../address/address'
import type { Via } from '../../format/estate'
import { derived } from '../../incremental/derived'
import type { Model } from '../../model/model'
import { targetOf, viaText } from '../../model/targets'
import { mend, type Mend } from '../mend'
import { lookedUpLast, type Situation } from '../situation'
import { firstLookUp } from './answers'
import { narrowPrefix } from './prefixes'
import { addRoute } from './routes'

/**
 * Leads the direction that goes round a firewall through it, by the next hops that lead others
 * there: the request where only its answer meets the firewall, else the answer.
 */
export function throughFirewall(s: Situation): Mend[] {
  const { branch, cause, model } = s
  if (cause.code !== 'no-state' && cause.code !== 'return-bypasses-firewall') return []
  const isRequest = cause.code === 'no-state'
  const lane = isRequest ? branch.forward : branch.return
  if (!lane) return []
  const lookup = firstLookUp(lane.stations) ?? lookedUpLast(lane.stations)
  const to = lane.stations[0]?.packet.dst
  if (!lookup || to === undefined) return []
  const prefix = narrowPrefix({ ...s, dst: parseAddress(to)! })
  return viasTo(model, cause.object).flatMap((via) => {
    const made = mend(
      `lead ${prefix} from ${lookup.subnet} by ${viaText(via)} through ${s.id}`,
      addRoute(s, lookup, prefix, via),
    )
    return made ? [made] : []
  })
}

/** The written next hops that lead to a firewall anywhere in the estate, and its own addresses. */
const viasTo = derived((model: Model, ref: string): readonly Via[] => {
  const found = new Map<string, Via>()
  const add = (via: Via): void => void found.set(JSON.stringify(via), via)
  const firewall = model.firewalls.find((one) => one.ref === ref)
  const sides = new Set(firewall?.interfaces.map((side) => side.interface))
  for (const table of model.tables)
    for (const { via } of table.source.routes ?? []) {
      const target = targetOf(model.index, via)
      const leads =
        (target.kind === 'inspect' && `firewalls/${target.id}` === ref) ||
        (target.kind === 'interface' && sides.has(target.index)) ||
        (target.kind === 'address' &&
          [...sides].some((side) => model.interfaces[side]!.addresses.includes(target.address)))
      if (leads) add(via)
    }
  for (const side of sides) add({ interface: model.interfaces[side]!.id })
  const { source } = firewall ?? {}
  if (source?.style === 'inline')
    for (const name of Object.keys(source.endpoints ?? {}))
      add({ inspect: `${ref.slice('firewalls/'.length)}/${name}` })
  return [...found.values()]
})
