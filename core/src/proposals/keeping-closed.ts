import { formatPrefix, hostPrefix } from '../address/prefix'
import { prefixesOfRange, rangeSet, type RangeSet } from '../address/ranges'
import { placesOf } from '../consequences/json'
import type { NamedRanges, Row } from '../consequences/rows'
import { pointer, type Operation } from '../changes/index'
import type { Estate, Rule } from '../format/estate'
import { mend, type Mend } from '../mend/mend'
import { freeId } from '../mend/situation'
import type { Model } from '../model/model'
import { protocolName } from '../packet/packet'
import { protocolAt } from '../packet/protocols'
import type { Tried } from './prover'

/** More denials than these are no proposal that somebody would read. */
const MOST_RULES = 6
/** Prefixes on one side of a denial, and protocols that get one each. */
export const MOST_PREFIXES = 24
const MOST_PROTOCOLS = 3
const ALL_PROTOCOLS = 256

export type Denial = Pick<
  Rule,
  'direction' | 'protocol' | 'ports' | 'sourcePorts' | 'peers' | 'local'
>

/**
 * Changes that open more than they are for, with rules of the estate that deny what is too much: at
 * the senders of the estate what they may send now, at its hosts what may come to them from
 * outside. First the rules name just those packets, which did not pass before, so that nothing is
 * cut; where that takes more rules than somebody reads, they name the same ends on every protocol,
 * and the trial tells what that costs. None where what it harms is not opened packets alone. Costs
 * a step for each harm.
 */
export function* waysToKeepClosed(model: Model, tried: Tried): Generator<Mend> {
  const exposed = new Set<string>()
  const unruled = new Set<string>()
  const rows: Row[] = []
  for (const { kind, row, finding } of tried.harms) {
    const id = finding?.anchor.startsWith('interfaces/')
      ? finding.anchor.slice('interfaces/'.length)
      : null
    if (kind === 'opened' && row) rows.push(row)
    else if (finding?.code === 'open-to-internet' && id !== null) exposed.add(id)
    else if (finding?.code === 'odd-no-rules' && id !== null) unruled.add(id)
    else return
  }
  const open = [...exposed].filter((id) => !unruled.has(id))
  const outside = open.length > 0 ? [keepingOut(model, open)] : []
  const ruled = [...unruled].flatMap((id) => [...rulesOfItsOwn(model, id)])
  for (const isExact of [true, false]) {
    const denials = [...outside, ...rows.flatMap((row) => denialsOf(model, row, isExact) ?? [null])]
    const known = denials.filter((one) => one !== null)
    const fresh = [...new Map(known.map((one) => [JSON.stringify(one), one])).values()]
    if (known.length < denials.length || fresh.length > MOST_RULES) continue
    if (fresh.length + ruled.length === 0) continue
    const also = [
      ...(fresh.length > 0 ? ['deny by a rule of the estate what it would open besides'] : []),
      ...[...unruled].map((id) => `give ${id} rules that let only the inside in`),
    ]
    const kept = mend(
      [tried.what, ...also].join('; '),
      [...tried.changes, ...ruled, ...fresh.map((denial) => denyFirst(model, denial))],
      tried.blanks ?? [],
    )!
    yield {
      ...kept,
      ...(tried.asNeighbours ? { asNeighbours: tried.asNeighbours } : {}),
      closing: ruled.map(({ path }) => path),
    }
  }
}

/** Rules of its own for an interface that has none: everything out, only the inside in. */
export function rulesOfItsOwn({ estate }: Model, id: string): readonly Operation[] {
  const own = freeId(estate.ruleSets, `${id}-inside`)
  const rules = [{ direction: 'in', peers: insideRanges(estate) }, { direction: 'out' }]
  return [
    { op: 'add', path: pointer('ruleSets', own), value: { rules } },
    { op: 'add', path: pointer('interfaces', id, 'ruleSets'), value: [own] },
  ]
}

/** The ranges of every network and site: all there is but the internet. */
export const insideRanges = ({ networks, sites }: Estate): readonly string[] => [
  ...new Set([...networks.values(), ...sites.values()].flatMap(({ ranges }) => ranges ?? [])),
]

/** A denial of what comes from the internet to some interfaces. */
const keepingOut = (model: Model, interfaces: readonly string[]): Denial => ({
  direction: 'in',
  peers: ['internet'],
  local: addressesOf(model, interfaces),
})

/** Adds a denial before all rules of the estate. */
export function denyFirst({ estate }: Model, denial: Denial): Operation {
  const lowest = Math.min(...estate.estateRules.map(({ order }) => order), 1)
  const value = { order: Math.max(0, lowest - 1), action: 'deny', ...denial }
  return { op: 'add', path: '/estateRules/0', value }
}

/** Keeps the internet out of an interface by a rule of the estate, which alters nothing else. */
export const keepInternetOut = (model: Model, id: string): Mend =>
  mend(`keep the internet out of ${id} by a rule of the estate`, [
    denyFirst(model, keepingOut(model, [id])),
  ])!

/**
 * Rules that deny the packets of a row and no others, or those of its ends on every protocol; null
 * where that takes too many.
 */
function denialsOf(model: Model, row: Row, isExact: boolean): Denial[] | null {
  const places = placesOf(row.protocols)
  const isWhole = !isExact || places.length === ALL_PROTOCOLS
  if (!isWhole && places.length > MOST_PROTOCOLS) return null
  const ends = endsOf(model, row)
  if (ends === null) return null
  if (isWhole) return ends
  return ends.flatMap((one) =>
    places.map((place): Denial => ({
      ...one,
      protocol: protocolOf(place),
      ...portsOf('ports', row.dstPorts),
      ...portsOf('sourcePorts', row.srcPorts),
    })),
  )
}

/** Where packets of a row are denied: at the hosts that send them, else at those they are for. */
function endsOf(model: Model, { from, to }: Row): Denial[] | null {
  const [hosts, others] = [
    new Map([...from].filter(([names]) => isHosts(names))),
    new Map([...from].filter(([names]) => !isHosts(names))),
  ]
  if (others.size > 0 && ![...to.keys()].every(isHosts)) return null
  const ends: Denial[] = [
    ...(hosts.size > 0
      ? [{ direction: 'out' as const, local: prefixesIn(hosts), peers: peersIn(to) }]
      : []),
    // What comes from outside may be for a public address; its host's rules see its own.
    ...(others.size > 0
      ? [
          {
            direction: 'in' as const,
            local: addressesOf(model, idsIn(to)),
            peers: peersIn(others),
          },
        ]
      : []),
  ]
  const isLong = (list: readonly unknown[] | undefined): boolean =>
    (list ?? []).length > MOST_PREFIXES
  return ends.some(({ local, peers }) => isLong(local) || isLong(peers)) ? null : ends
}

const isHosts = (names: string): boolean =>
  names.split(' ').every((name) => name.startsWith('interface:'))

/** The far side of a row as peers of a rule; of much of the internet, its name. */
function peersIn(ends: NamedRanges): NonNullable<Denial['peers']> {
  const all = prefixesIn(ends)
  if (all.length <= MOST_PREFIXES || !ends.has('internet')) return all
  const others = new Map([...ends].filter(([name]) => name !== 'internet'))
  return ['internet', ...prefixesIn(others)]
}

const protocolOf = (place: number): NonNullable<Denial['protocol']> => {
  const name = protocolName(protocolAt(place))
  return name as NonNullable<Denial['protocol']>
}

const portsOf = (key: 'ports' | 'sourcePorts', set: RangeSet): Partial<Denial> => {
  const ranges = rangeSet(set)
  const isAll = ranges.length === 1 && ranges[0]!.from === 0 && ranges[0]!.to === 65535
  return isAll || ranges.length === 0
    ? {}
    : { [key]: ranges.map(({ from, to }) => (from === to ? Number(from) : `${from}-${to}`)) }
}

const prefixesIn = (ends: NamedRanges): string[] =>
  rangeSet([...ends.values()].flat())
    .flatMap(prefixesOfRange)
    .map(formatPrefix)

const idsIn = (ends: NamedRanges): string[] =>
  [...ends.keys()].flatMap((names) =>
    names.split(' ').map((name) => name.slice('interface:'.length)),
  )

/** The addresses of interfaces as prefixes. */
export const addressesOf = (model: Model, ids: readonly string[]): string[] => [
  ...new Set(
    ids.flatMap((id) =>
      (model.interfaces[model.index.interfaces.get(id) ?? -1]?.addresses ?? []).map((address) =>
        formatPrefix(hostPrefix(address)),
      ),
    ),
  ),
]
