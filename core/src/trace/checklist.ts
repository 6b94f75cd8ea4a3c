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
  const path = walkedPath(branch)
  return CHECKS.map(({ id, asks, look }) => ({ id, asks, ...look(path) }))
}

/** The stations of a branch, without what was assumed beyond its first fault. */
interface WalkedPath {
  readonly branch: Branch
  readonly there: readonly StationJson[]
  readonly back: readonly StationJson[]
  /** The place of the first look-up on the way there; −1 for none. */
  readonly lookup: number
  /** Where it fails. */
  readonly fault: Check['shown']
  /** The code of a fault on the way there. */
  readonly forwardFault: CauseCode | null
}

type Found = Pick<Check, 'state' | 'found' | 'shown'>

function walkedPath(branch: Branch): WalkedPath {
  const { cause } = branch
  const there = branch.forward.stations.filter((station) => !station.assumed)
  return {
    branch,
    there,
    back: (branch.return?.stations ?? []).filter((station) => !station.assumed),
    lookup: there.findIndex((station) => station.kind === 'lookup'),
    fault: cause && { direction: cause.direction, station: cause.station },
    forwardFault: cause?.direction === 'forward' ? cause.code : null,
  }
}

const NOT_REACHED: Found = { state: 'not-reached', found: '', shown: null }
const ticked = (found: string, direction: 'forward' | 'return', station: number): Found => ({
  state: 'ticked',
  found,
  shown: station < 0 ? null : { direction, station },
})
const failed = ({ fault }: WalkedPath, found: string): Found => ({
  state: 'failed',
  found,
  shown: fault,
})
/** Not needed on a path that works; on one that fails before, it is unknown. */
const notNeeded = ({ forwardFault }: WalkedPath, found: string): Found =>
  forwardFault === null ? { state: 'not-needed', found, shown: null } : NOT_REACHED
const causeText = ({ branch: { cause } }: WalkedPath): string => `${cause!.code} ${cause!.object}`
const failsBy = ({ forwardFault }: WalkedPath, codes: readonly CauseCode[]): boolean =>
  forwardFault !== null && codes.includes(forwardFault)

function lookAtRoute(path: WalkedPath): Found {
  const { there, lookup, branch } = path
  if (failsBy(path, ROUTE)) return failed(path, there.at(-1)!.decision)
  if (lookup >= 0) return ticked(there[lookup]!.decision, 'forward', lookup)
  return branch.cause
    ? NOT_REACHED
    : { state: 'not-needed', found: 'it begins outside', shown: null }
}

function lookAtTarget(path: WalkedPath): Found {
  const { there, lookup } = path
  if (failsBy(path, TARGET)) return failed(path, causeText(path))
  const passed = there.findIndex(
    ({ kind }, at) => at > lookup && kind !== 'rules' && kind !== 'lookup',
  )
  return passed < 0 ? NOT_REACHED : ticked(there[passed]!.at, 'forward', passed)
}

function lookAtAddress(path: WalkedPath): Found {
  const { there, forwardFault, branch } = path
  if (failsBy(path, ADDRESS)) return failed(path, causeText(path))
  const door = there.findIndex((station) => LEADS_OUT.has(station.kind))
  if (door < 0) return notNeeded(path, 'it stays inside')
  const seen = ticked(branch.seenAs.join(', '), 'forward', door)
  return forwardFault === null ? seen : { ...seen, state: 'not-reached' }
}

/** Everything else that can stop a packet: policies, rings, places that are not there or not up. */
function lookAtWay(path: WalkedPath): Found {
  const { there, forwardFault, branch } = path
  if (forwardFault === null)
    return ticked(branch.way.join(', ') || 'nothing stands between', 'forward', there.length - 1)
  const elsewhere =
    [...ROUTE, ...TARGET, ...ADDRESS].includes(forwardFault) || RULES.test(forwardFault)
  return elsewhere ? NOT_REACHED : failed(path, causeText(path))
}

const lookAtRules =
  (direction: 'out' | 'in') =>
  (path: WalkedPath): Found => {
    const { there, forwardFault, branch } = path
    const asked = there.flatMap((station, at) =>
      evidenceOf(station)?.direction === direction ? [at] : [],
    )
    const denied =
      forwardFault !== null && forwardFault !== 'denied-local'
        ? asked.find((at) => branch.cause!.station === at)
        : undefined
    if (denied !== undefined) return failed(path, there[denied]!.decision)
    const shown = direction === 'out' ? asked[0] : asked.at(-1)
    if (shown === undefined) return notNeeded(path, '')
    if (direction === 'in' && forwardFault !== null && forwardFault !== 'denied-local')
      return NOT_REACHED
    return ticked(there[shown]!.decision, 'forward', shown)
  }

function lookAtStatelessSets(path: WalkedPath): Found {
  const { there, back, forwardFault, branch } = path
  const { cause } = branch
  const [out, home] = [there.findIndex(asksStateless), back.findIndex(asksStateless)]
  const decided = cause && (cause.direction === 'forward' ? there : back)[cause.station]
  if (decided && cause.code.startsWith('denied-') && deniedByStateless(decided))
    return failed(path, decided.decision)
  if (out < 0 && home < 0) return notNeeded(path, 'none on the way')
  if (branch.return === null || forwardFault !== null) return NOT_REACHED
  return home >= 0
    ? ticked('asked there and back', 'return', home)
    : ticked('asked there and back', 'forward', out)
}

function lookAtOwnRules(path: WalkedPath): Found {
  const { there, forwardFault, branch } = path
  if (branch.cause?.code === 'denied-local') return failed(path, branch.cause.object)
  const asked = there.findIndex((station) =>
    evidenceOf(station)?.levels.some((level) => level.level === 'local'),
  )
  if (asked < 0) return notNeeded(path, 'they have none')
  const passed = ticked(there[asked]!.decision, 'forward', asked)
  return forwardFault === null ? passed : { ...passed, state: 'not-reached' }
}

function lookAtAnswer(path: WalkedPath): Found {
  const { back, forwardFault, branch } = path
  if (forwardFault !== null) return NOT_REACHED
  if (branch.cause) return failed(path, causeText(path))
  return ticked(back.at(-1)?.decision ?? '', 'return', back.length - 1)
}

const CHECKS: readonly {
  readonly id: Check['id']
  readonly asks: string
  readonly look: (path: WalkedPath) => Found
}[] = [
  { id: 'route', asks: 'a route leads there', look: lookAtRoute },
  { id: 'target', asks: 'its target is there, up and attached', look: lookAtTarget },
  { id: 'address', asks: 'a public address, or a translator', look: lookAtAddress },
  { id: 'way', asks: 'everything on the way takes it', look: lookAtWay },
  { id: 'rules-out', asks: 'rules on the way out', look: lookAtRules('out') },
  { id: 'rules-in', asks: 'rules on the way in', look: lookAtRules('in') },
  { id: 'stateless', asks: 'stateless lists, both ways', look: lookAtStatelessSets },
  { id: 'own-rules', asks: 'the hosts’ own rules', look: lookAtOwnRules },
  { id: 'answer', asks: 'the answer comes back', look: lookAtAnswer },
]

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
