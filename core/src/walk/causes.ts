/** Every way in which a packet can fail (design part 3.4), and what that makes of the path. */
export type Outcome = 'delivered' | 'blocked' | 'blackholed' | 'looped'
export type PathVerdict = 'works' | 'one-way' | 'blocked' | 'blackholed' | 'looped'

const BLOCKED = new Set([
  'denied-estate',
  'denied-local',
  'denied-interface',
  'denied-subnet',
  'denied-boundary',
  'denied-policy',
  'no-state',
  'nat-outbound-only',
  'gateway-outbound-only',
])

/** Every cause there is. */
export const CAUSE_CODES = [
  'denied-estate',
  'denied-local',
  'denied-interface',
  'denied-subnet',
  'denied-boundary',
  'nat-outbound-only',
  'gateway-outbound-only',
  'gateway-wrong-family',
  'no-route',
  'drop-route',
  'no-such-subnet',
  'interface-not-up',
  'target-missing',
  'target-not-up',
  'target-elsewhere',
  'no-public-address',
  'private-destination',
  'no-internet-gateway',
  'nobody-has-it',
  'nat-no-address',
  'nat-other-region',
  'nat-does-not-serve',
  'nat-wrong-family',
  'nat-without-way-out',
  'nat-no-flow',
  'next-hop-missing',
  'next-hop-not-up',
  'next-hop-not-forwarding',
  'next-hop-in-other-network',
  'answer-from-other-address',
  'denied-policy',
  'no-state',
  'return-bypasses-firewall',
  'peering-not-transitive',
  'forwarded-refused',
  'site-does-not-have-it',
  'site-has-no-route',
  'site-has-no-route-back',
  'transit-not-in-zone',
  'wrong-service',
  'service-other-region',
  'no-listener',
  'name-unknown',
  'answer-to-other-host',
  'looped',
] as const

export type CauseCode = (typeof CAUSE_CODES)[number]

/** The outcome that a cause makes of a walk. */
export function outcomeOf(code: CauseCode): Exclude<Outcome, 'delivered'> {
  if (code === 'looped') return code
  return BLOCKED.has(code) ? 'blocked' : 'blackholed'
}

/** From best to worst. */
const RANK: Record<PathVerdict, number> = {
  works: 0,
  'one-way': 1,
  blocked: 2,
  blackholed: 3,
  looped: 4,
}
/** The rank of the outcome of one direction, from best (0) to worst. */
export const outcomeRank = (outcome: Outcome): number =>
  outcome === 'delivered' ? 0 : RANK[outcome]

/** The rank of a verdict, from best (0) to worst. */
export const verdictRank = (verdict: PathVerdict): number => RANK[verdict]

export interface Cause {
  readonly code: CauseCode
  /** The object that failed, as `section/id`. */
  readonly object: string
  readonly direction: 'forward' | 'return'
  /** The place of the station that failed in its direction, from 0. */
  readonly station: number
  /** For a translator without a way out: why it has none. */
  readonly inner?: { readonly code: string; readonly object: string }
}
