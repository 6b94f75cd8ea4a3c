import { CAUSE_CODES, type CauseCode } from '@salt-trail/core'

/**
 * What becomes of packets that do not arrive, in the few words that a cell has room for: one word
 * for one fate, the same wherever it is said. `docs/glossary.md` lists them all.
 */
export const FATES = {
  'no route': ['no-route'],
  dropped: ['drop-route'],
  'dead target': ['target-missing', 'target-not-up', 'target-elsewhere'],
  'dead next hop': [
    ...(['next-hop-missing', 'next-hop-not-up', 'next-hop-not-forwarding'] as const),
    'next-hop-in-other-network',
  ],
  'no public address': ['no-public-address'],
  'stuck NAT': ['nat-without-way-out'],
  'NAT refuses': [
    ...(['nat-no-address', 'nat-other-region', 'nat-does-not-serve'] as const),
    ...(['nat-wrong-family', 'nat-no-flow', 'nat-outbound-only'] as const),
  ],
  'gateway refuses': [
    ...(['gateway-outbound-only', 'gateway-wrong-family', 'no-internet-gateway'] as const),
    'private-destination',
  ],
  'peering refuses': ['peering-not-transitive', 'forwarded-refused'],
  'site refuses': ['site-does-not-have-it', 'site-has-no-route', 'site-has-no-route-back'],
  'transit refuses': ['transit-not-in-zone'],
  'endpoint refuses': ['wrong-service', 'service-other-region'],
  'nobody there': [
    ...(['nobody-has-it', 'no-such-subnet', 'interface-not-up', 'no-listener'] as const),
    'name-unknown',
  ],
  denied: [
    ...(['denied-estate', 'denied-local', 'denied-interface', 'denied-subnet'] as const),
    ...(['denied-boundary', 'denied-policy'] as const),
  ],
  'unknown flow': [
    ...(['no-state', 'return-bypasses-firewall', 'answer-from-other-address'] as const),
    'answer-to-other-host',
  ],
  ring: ['looped'],
} as const satisfies Readonly<Record<string, readonly CauseCode[]>>
export type Fate = keyof typeof FATES

const byCode = new Map<string, Fate>(
  Object.entries(FATES).flatMap(([fate, codes]) =>
    codes.map((code): [string, Fate] => [code, fate as Fate]),
  ),
)

/** The fate of a cause; `lost` for a code that this version does not know. */
export const fateOf = (code: string): Fate | 'lost' => byCode.get(code) ?? 'lost'

/** Causes without a fate: none, as a test holds. */
export const CODES_WITHOUT_FATE = CAUSE_CODES.filter((code) => !byCode.has(code))
