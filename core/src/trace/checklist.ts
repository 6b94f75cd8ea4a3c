import type { RulesEvidence } from '../rules/words'
import type { CauseCode } from '../walk/causes'
import type { Branch, StationJson } from './branch'

export type CheckState = 'ticked' | 'failed' | 'not-reached' | 'not-needed'

/** One thing an engineer would look at by hand, answered for this path. */
export interface Check {
  readonly id:
    | 'route'
    | 'target'
    | 'address'
    | 'way'
    | 'rules-out'
    | 'rules-in'
    | 'stateless'
    | 'own-rules'
    | 'answer'
  readonly asks: string
  readonly state: CheckState
  /** What was found, in a few words. */
  readonly found: string
  /** The station that shows it. */
  readonly shown: { readonly direction: 'forward' | 'return'; readonly station: number } | null
}

const ROUTE: readonly CauseCode[] = ['no-route', 'drop-route', 'name-unknown']
const TARGET: readonly CauseCode[] = [
  'target-missing',
  'target-not-up',
  'target-elsewhere',
  'next-hop-missing',
  'next-hop-not-up',
  'next-hop-not-forwarding',
  'next-hop-in-other-network',
  'nat-other-region',
  'nat-does-not-serve',
  'nat-wrong-family',
  'gateway-wrong-family',
  'transit-not-in-zone',
  'wrong-service',
  'service-other-region',
  'peering-not-transitive',
  'forwarded-refused',
  'site-does-not-have-it',
]

const ADDRESS: readonly CauseCode[] = [
  'no-public-address',
  'nat-no-address',
  'nat-without-way-out',
  'private-destination',
  'no-internet-gateway',
  'nobody-has-it',
]

/** Rules at hosts and edges have checks of their own. */
const RULES = /^denied-(estate|local|interface|subnet|boundary)$/
const LEADS_OUT: ReadonlySet<StationJson['kind']> = new Set(['gateway', 'internet', 'nat'])

/**
 * The checklist of one path, in the order of the work. Only what really happens counts, not what is
 * assumed beyond a fault. The trace must have evidence.
 */
export function checklistOf(branch: Branch): Check[] {
  const { cause } = branch
  const there = branch.forward.stations.filter((station) => !station.assumed)
  const back = (branch.return?.stations ?? []).filter((station) => !station.assumed)
  const at = (direction: 'forward' | 'return', station: number): Check['shown'] =>
    station < 0 ? null : { direction, station }
  const fault = cause && at(cause.direction, cause.station)
  const forwardFault = cause?.direction === 'forward' ? cause.code : null
  const failed = (codes: readonly CauseCode[]): boolean =>
    forwardFault !== null && codes.includes(forwardFault)
  const make = (
    id: Check['id'],
    asks: string,
    state: CheckState,
    found: string,
    shown: Check['shown'],
  ): Check => ({ id, asks, state, found, shown })

  const lookup = there.findIndex((station) => station.kind === 'lookup')
  const route = (): Check => {
    const asks = 'a route leads there'
    if (failed(ROUTE)) return make('route', asks, 'failed', there.at(-1)!.decision, fault)
    if (lookup < 0)
      return make(
        'route',
        asks,
        cause ? 'not-reached' : 'not-needed',
        cause ? '' : 'it begins outside',
        null,
      )
    return make('route', asks, 'ticked', there[lookup]!.decision, at('forward', lookup))
  }
  const target = (): Check => {
    const asks = 'its target is there, up and attached'
    if (failed(TARGET))
      return make('target', asks, 'failed', `${cause!.code} ${cause!.object}`, fault)
    const passed = there.findIndex(
      (station, i) => i > lookup && station.kind !== 'rules' && station.kind !== 'lookup',
    )
    if (passed < 0) return make('target', asks, 'not-reached', '', null)
    return make('target', asks, 'ticked', there[passed]!.at, at('forward', passed))
  }
  const address = (): Check => {
    const asks = 'a public address, or a translator'
    if (failed(ADDRESS))
      return make('address', asks, 'failed', `${cause!.code} ${cause!.object}`, fault)
    const door = there.findIndex((station) => LEADS_OUT.has(station.kind))
    if (door < 0)
      return make(
        'address',
        asks,
        forwardFault === null ? 'not-needed' : 'not-reached',
        forwardFault === null ? 'it stays inside' : '',
        null,
      )
    return make(
      'address',
      asks,
      forwardFault === null ? 'ticked' : 'not-reached',
      branch.seenAs.join(', '),
      at('forward', door),
    )
  }
  /**
   * Everything else that can stop a packet: policies, rings, places that are not there or not up.
   */
  const way = (): Check => {
    const asks = 'everything on the way takes it'
    const elsewhere =
      forwardFault !== null &&
      ([...ROUTE, ...TARGET, ...ADDRESS].includes(forwardFault) || RULES.test(forwardFault))
    if (forwardFault !== null && !elsewhere)
      return make('way', asks, 'failed', `${forwardFault} ${cause!.object}`, fault)
    if (forwardFault !== null) return make('way', asks, 'not-reached', '', null)
    return make(
      'way',
      asks,
      'ticked',
      branch.way.join(', ') || 'nothing stands between',
      at('forward', there.length - 1),
    )
  }
  const rules = (id: 'rules-out' | 'rules-in', direction: 'out' | 'in', asks: string): Check => {
    const asked = there.flatMap((station, i) =>
      evidenceOf(station)?.direction === direction ? [i] : [],
    )
    const denied = asked.find(
      (i) => cause?.direction === 'forward' && cause.station === i && cause.code !== 'denied-local',
    )
    if (denied !== undefined) return make(id, asks, 'failed', there[denied]!.decision, fault)
    const shown = direction === 'out' ? asked[0] : asked.at(-1)
    if (shown === undefined)
      return make(id, asks, forwardFault === null ? 'not-needed' : 'not-reached', '', null)
    if (direction === 'in' && forwardFault !== null && forwardFault !== 'denied-local')
      return make(id, asks, 'not-reached', '', null)
    return make(id, asks, 'ticked', there[shown]!.decision, at('forward', shown))
  }
  const stateless = (): Check => {
    const asks = 'stateless lists, both ways'
    const [out, home] = [there.findIndex(asksStateless), back.findIndex(asksStateless)]
    const decided = cause && (cause.direction === 'forward' ? there : back)[cause.station]
    if (decided && cause.code.startsWith('denied-') && deniedByStateless(decided))
      return make('stateless', asks, 'failed', decided.decision, fault)
    if (out < 0 && home < 0)
      return make(
        'stateless',
        asks,
        forwardFault === null ? 'not-needed' : 'not-reached',
        forwardFault === null ? 'none on the way' : '',
        null,
      )
    if (branch.return === null || forwardFault !== null)
      return make('stateless', asks, 'not-reached', '', null)
    return make(
      'stateless',
      asks,
      'ticked',
      'asked there and back',
      home >= 0 ? at('return', home) : at('forward', out),
    )
  }
  const ownRules = (): Check => {
    const asks = 'the hosts’ own rules'
    if (cause?.code === 'denied-local')
      return make('own-rules', asks, 'failed', cause.object, fault)
    const asked = there.findIndex((station) =>
      evidenceOf(station)?.levels.some((level) => level.level === 'local'),
    )
    if (asked < 0)
      return make(
        'own-rules',
        asks,
        forwardFault === null ? 'not-needed' : 'not-reached',
        forwardFault === null ? 'they have none' : '',
        null,
      )
    return make(
      'own-rules',
      asks,
      forwardFault === null ? 'ticked' : 'not-reached',
      there[asked]!.decision,
      at('forward', asked),
    )
  }
  const answer = (): Check => {
    const asks = 'the answer comes back'
    if (forwardFault !== null) return make('answer', asks, 'not-reached', '', null)
    if (cause) return make('answer', asks, 'failed', `${cause.code} ${cause.object}`, fault)
    return make(
      'answer',
      asks,
      'ticked',
      back.at(-1)?.decision ?? '',
      at('return', back.length - 1),
    )
  }
  return [
    route(),
    target(),
    address(),
    way(),
    rules('rules-out', 'out', 'rules on the way out'),
    rules('rules-in', 'in', 'rules on the way in'),
    stateless(),
    ownRules(),
    answer(),
  ]
}

function evidenceOf(station: StationJson): RulesEvidence | null {
  return station.kind === 'rules' && 'levels' in station.evidence
    ? (station.evidence as RulesEvidence)
    : null
}

const asksStateless = (station: StationJson): boolean =>
  evidenceOf(station)?.levels.some((level) => level.sets.some((set) => !set.stateful)) ?? false
const deniedByStateless = (station: StationJson): boolean =>
  evidenceOf(station)?.levels.some(
    (level) => !level.passes && level.sets.some((set) => !set.stateful),
  ) ?? false
