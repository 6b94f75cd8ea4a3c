import { containsAddress, prefixOf } from '../../address/prefix'
import type { Operation } from '../../changes/index'
import type { Route } from '../../format/estate'
import type { CauseCode } from '../../walk/causes'
import { mend, type Mend } from '../mend'
import { bringUp, isUp, type Situation } from '../situation'
import { answerTheAskerTheWayItCame, answerTheWayItCame } from './answers'
import { RECIPES } from './by-cause'
import { announceAlone, leadOnFromGateway } from './element-routes'
import { neighboursRoutes } from './neighbours'
import { narrowPrefix } from './prefixes'
import { dropTheRoute } from './rerouting'
import { viaText } from '../../model/targets'
import { addRoute, associate, ownCopy, setRoute } from './routes'
import { allowInOwnSet, trafficText } from './rules'
import { throughFirewall } from './through-firewall'
import { elsewhere, newTranslator } from './translators'
import { waysTowards } from './ways'

/**
 * Every change that may mend one fault, the most fitting first: what neighbours do, the smallest
 * one, then the same for this subnet alone or for these destinations alone, then other ways. Which
 * of them does no harm is found by trying.
 */
export function alternatives(s: Situation): Mend[] {
  const { code } = s.cause
  const found = [
    ...throughFirewall(s),
    ...(BY_ROUTES.has(code) ? neighboursRoutes(s) : []),
    RECIPES[code](s),
    code === 'no-public-address' ? newTranslator(s) : null,
    ...(ANNOUNCED.has(code) ? announceAlone(s).slice(0, MOST_WAYS) : []),
    ...(code === 'no-such-subnet' ? leadOnFromGateway(s).slice(0, MOST_WAYS) : []),
    code === 'nat-without-way-out' ? elsewhere(s.model, s.id) : null,
    ...(BY_RULES.has(code) ? ownRules(s) : []),
    ...(BY_ROUTES.has(code) ? otherRoutes(s) : []),
    ...answers(s),
  ]
  const known = new Set<string>()
  return found.filter((one): one is Mend => {
    if (one === null) return false
    const text = JSON.stringify(one.changes)
    if (known.has(text)) return false
    known.add(text)
    return true
  })
}

/** Answers the way their flow came. */
function answers(s: Situation): (Mend | null)[] {
  const { code, direction } = s.cause
  if (direction !== 'return') return []
  if (code === 'no-such-subnet') return [answerTheWayItCame(s), answerTheAskerTheWayItCame(s)]
  return BY_ROUTES.has(code) ? [answerTheWayItCame(s)] : []
}

/** Of ways to lead on, and of gateways to announce by, so many are tried. */
const MOST_WAYS = 6

/** Faults of where packets are led. */
const BY_ROUTES: ReadonlySet<CauseCode> = new Set([
  'no-route',
  'drop-route',
  'target-missing',
  'target-not-up',
  'target-elsewhere',
  'no-public-address',
  'private-destination',
  'nat-other-region',
  'nat-wrong-family',
  'nat-without-way-out',
  'nat-no-flow',
  'next-hop-missing',
  'next-hop-not-up',
  'next-hop-not-forwarding',
  'next-hop-in-other-network',
  'answer-from-other-address',
  'peering-not-transitive',
  'site-does-not-have-it',
  'wrong-service',
  'service-other-region',
  'gateway-wrong-family',
  'no-state',
  'return-bypasses-firewall',
  'looped',
  'answer-to-other-host',
])

/** Faults of what is announced to a site. */
const ANNOUNCED: ReadonlySet<CauseCode> = new Set([
  'site-has-no-route',
  'site-has-no-route-back',
  'no-such-subnet',
])

const BY_RULES: ReadonlySet<CauseCode> = new Set([
  'denied-interface',
  'denied-subnet',
  'denied-local',
  'denied-boundary',
])

/** The kind of traffic allowed for the denied object alone, where others carry the set too. */
function ownRules(s: Situation): (Mend | null)[] {
  const station = s.stations.at(-1)!.at
  const [section, id] = [
    station.slice(0, station.indexOf('/')),
    station.slice(station.indexOf('/') + 1),
  ]
  const subnet = section === 'subnets' ? id : s.estate.interfaces.get(id)?.subnet
  const own = (
    of: 'interfaces' | 'subnets',
    which: string | undefined,
    key: 'ruleSets' | 'localRules' | 'boundary',
  ): Mend | null =>
    which === undefined
      ? null
      : mend(`allow ${trafficText(s)} at ${which} alone`, allowInOwnSet(s, of, which, key))
  switch (s.cause.code) {
    case 'denied-interface':
      return [own('interfaces', section === 'interfaces' ? id : undefined, 'ruleSets')]
    case 'denied-subnet':
      return [own('subnets', subnet, 'ruleSets')]
    case 'denied-local':
      return [own('interfaces', section === 'interfaces' ? id : undefined, 'localRules')]
    default:
      return [own('subnets', subnet, 'boundary')]
  }
}

/** Other routes: each way that fits, at the table or for the subnet alone, narrow and wide. */
function otherRoutes(s: Situation): (Mend | null)[] {
  const { estate, lookup } = s
  if (!lookup) return []
  const to = narrowPrefix(s)
  const vias = waysTowards(s, [s.id]).slice(0, MOST_WAYS)
  const isShared =
    lookup.table !== null &&
    s.model.subnets.filter((one) => one.table === s.model.index.routeTables.get(lookup.table!))
      .length > 1
  const [up] = [bringUp(estate, s.section, s.id)]
  return [
    ...vias.flatMap((via): (Mend | null)[] => [
      mend(`route ${to} by ${viaText(via)}`, addRoute(s, lookup, to, via)),
      mend(`route by ${viaText(via)}`, setRoute(s, via)),
      isShared
        ? mend(
            `give ${lookup.subnet} a table of its own that leads ${to} by ${viaText(via)}`,
            ownTable(s, { to, via }),
          )
        : null,
    ]),
    mend(`bring ${s.id} up`, up ?? []),
    ...tablesThatLead(s),
    dropTheRoute(s),
    isShared && lookup.entry >= 0
      ? mend(
          `give ${lookup.subnet} a table of its own without the route that leads there`,
          ownTable(s, null),
        )
      : null,
  ]
}

/** A copy of the table for one subnet, with one more route, or without the one that won. */
function ownTable(s: Situation, added: Route | null): Operation[] {
  const { estate, lookup } = s
  const table = lookup?.table == null ? undefined : estate.routeTables.get(lookup.table)
  if (!lookup || !table) return []
  const kept = (table.routes ?? []).filter(({ to }, entry) =>
    added === null ? entry !== lookup.entry : to !== added.to,
  )
  return ownCopy(estate, lookup.subnet, table, added === null ? kept : [...kept, added])
}

/** Other tables of the network that have a route for the destination. */
function tablesThatLead(s: Situation): (Mend | null)[] {
  const { estate, lookup, network, dst } = s
  if (!lookup) return []
  return [...estate.routeTables]
    .filter(
      ([id, table]) =>
        id !== lookup.table &&
        table.network === network &&
        isUp(table) &&
        table.routes?.some(
          ({ to, via }) =>
            typeof to === 'string' && via !== 'drop' && containsAddress(prefixOf(to), dst),
        ),
    )
    .slice(0, MOST_WAYS)
    .map(([id]) => mend(`associate ${lookup.subnet} with ${id}`, [associate(lookup.subnet, id)]))
}
