import { familyOf } from '../address/address'
import { rangeSet, rangeText, subtractRanges, type RangeSet } from '../address/ranges'
import type { Model } from '../model/model'
import { protocolName } from '../packet/packet'
import { PLACES_WITH_PORTS, protocolAt } from '../packet/protocols'
import { sendersOf, type Pair } from './ends'
import { placesOf, portsText, sizeOf } from './json'
import type { NamedRanges, PassedFirewalls, Row } from './rows'

/** A row of packets as a person would write it: from whom, to whom, on what. */
export function rowText(pair: Pair, row: Row): string {
  const text = `${endsText(pair, row.from)} to ${endsText(pair, row.to)}, ${transportText(row)}`
  const note = noteText(row)
  return note === '' ? text : `${text} (${note})`
}

/** What else is to be said of a row: firewalls, hosts, branches, ends that are down. */
export const noteText = ({ firewalls, hosts, partly, failed }: Row): string =>
  [
    ...(firewalls ? [firewallsText(firewalls)] : []),
    ...(hosts ? [`${names(hosts.before)} before, ${names(hosts.after)} now`] : []),
    ...(partly ? ['by some of its ways'] : []),
    ...(failed ? ['itself down'] : []),
  ].join('; ')

const idOf = (ref: string): string => ref.slice(ref.search(/[/:]/) + 1)
const names = (refs: readonly string[]): string => refs.map(idOf).join(' and ') || 'nothing'

/** Which firewalls are no longer, or newly, on the way. */
function firewallsText({ before, after }: NonNullable<Row['firewalls']>): string {
  const lacks = (a: readonly string[], b: readonly string[]): string[] =>
    a.filter((ref) => !b.includes(ref)).map(idOf)
  const said = (verb: string, a: PassedFirewalls, b: PassedFirewalls): string[] => {
    const [there, back] = [lacks(a.there, b.there), lacks(a.back, b.back)]
    if (there.length === 0 && back.length === 0) return []
    if (there.join() === back.join()) return [`${verb} ${there.join(', ')}`]
    return [
      ...(there.length > 0 ? [`${verb} ${there.join(', ')} on the way there`] : []),
      ...(back.length > 0 ? [`${verb} ${back.join(', ')} on the way back`] : []),
    ]
  }
  return [...said('no longer by', before, after), ...said('now by', after, before)].join('; ')
}

/** Ends by name: hosts by their subnets, the outside in its own words. */
export function endsText(pair: Pair, ends: NamedRanges): string {
  const hosts = new Map<string, string[]>()
  const others: string[] = []
  const isOpen = ends.has('internet')
  for (const [joined, ranges] of ends) {
    for (const name of joined.split(' ')) {
      // A party is a part of the internet.
      if (isOpen && name.startsWith('party:')) continue
      if (!name.startsWith('interface:')) {
        others.push(outsideText(pair, name, ranges))
        continue
      }
      const id = idOf(name)
      const subnet = subnetOf(pair.after, id) ?? subnetOf(pair.before, id) ?? ''
      const list = hosts.get(subnet)
      if (!list) hosts.set(subnet, [id])
      else if (!list.includes(id)) list.push(id)
    }
  }
  return [...hostsText(hosts), ...new Set(others)].join(' and ')
}

function hostsText(hosts: ReadonlyMap<string, readonly string[]>): string[] {
  const all = [...hosts.values()].flat()
  if (all.length === 0) return []
  if (all.length <= 2) return [all.join(' and ')]
  const subnets = [...hosts.keys()]
  const shown = subnets.slice(0, 3).join(', ')
  const more = subnets.length > 3 ? ` and ${subnets.length - 3} more subnets` : ''
  return [`${all.length} hosts of ${shown}${more}`]
}

function subnetOf(model: Model, id: string): string | undefined {
  const index = model.index.interfaces.get(id)
  return index === undefined ? undefined : model.subnets[model.interfaces[index]!.subnet]?.id
}

const FEW_RANGES = 3

/** The whole of an outside end by its name; a part of it with its ranges. */
function outsideText({ before, after }: Pair, name: string, ranges: RangeSet): string {
  const own = name === 'internet' ? 'the internet' : idOf(name)
  const whole = (sendersOf(after).get(name) ?? sendersOf(before).get(name))?.addresses
  if (whole === undefined || ranges.length === 0) return own
  const family = familyOf(ranges[0]!.from)
  const asked = whole.filter(({ from }) => familyOf(from) === family)
  const missing = subtractRanges(asked, ranges)
  if (missing.length === 0) return own
  if (missing.length <= FEW_RANGES) return `${own} but for ${missing.map(rangeText).join(', ')}`
  const [first, second, ...more] = rangeSet(ranges).map(rangeText)
  const shown = [first, ...(second === undefined ? [] : [second])].join(', ')
  return `${own} at ${shown}${more.length > 0 ? ` and ${more.length} more ranges` : ''}`
}

/** Protocols and ports in words; `everything` where it is all of them. */
export function transportText({ protocols, dstPorts, srcPorts }: Row): string {
  const places = placesOf(protocols)
  const left = 256 - places.length
  if (left === 0) return 'everything'
  const named = (list: readonly number[]): string =>
    list.map((place) => protocolName(protocolAt(place))).join(', ')
  if (left <= 8) {
    const held = new Set(places)
    const missing = Array.from({ length: 256 }, (_, at) => at).filter((at) => !held.has(at))
    return `everything but ${named(missing)}`
  }
  const few = places.slice(0, 5)
  const what = `${named(few)}${places.length > 5 ? ` and ${places.length - 5} more protocols` : ''}`
  if (places[0]! > PLACES_WITH_PORTS.to) return what
  const to = sizeOf(dstPorts) === 65536 ? ' on every port' : ` ${shortPorts(dstPorts)}`
  const from = sizeOf(srcPorts) === 65536 ? '' : ` from port ${shortPorts(srcPorts)}`
  return `${what}${to}${from}`
}

function shortPorts(set: RangeSet): string {
  const texts = portsText(set)
  return texts.length <= 5
    ? texts.join(', ')
    : `${texts.slice(0, 4).join(', ')} and ${texts.length - 4} more`
}
