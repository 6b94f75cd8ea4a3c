import type { Foreseen } from '@salt-trail/core'

type Change = Foreseen['seenAs'][number]

/** Partners that see some subnets otherwise than before, all of them alike. */
export interface SeenTogether {
  readonly key: string
  readonly parties: readonly string[]
  readonly subnets: readonly string[]
  readonly before: string
  readonly after: string
  /** Whether their allowlists lack what they see then. */
  readonly isMissing: boolean
}

const says = (addresses: readonly string[]): string => addresses.join(', ') || 'nobody'

/**
 * Told once: the partners that see a subnet alike, and the subnets that the same partners see
 * alike.
 */
export function seenTogether(changes: readonly Change[]): SeenTogether[] {
  const bySubnet = gathered(changes, (one) => [
    one.subnet,
    says(one.before),
    says(one.after),
    one.allowed === false,
  ])
  const alike = gathered([...bySubnet.values()], (some) => [
    some.map(({ party }) => party),
    says(some[0]!.before),
    says(some[0]!.after),
    some[0]!.allowed === false,
  ])
  return [...alike].map(([key, groups]) => {
    const [first] = groups[0]!
    return {
      key,
      parties: groups[0]!.map(({ party }) => party),
      subnets: groups.map(([one]) => one!.subnet),
      before: says(first!.before),
      after: says(first!.after),
      isMissing: first!.allowed === false,
    }
  })
}

function gathered<T>(items: readonly T[], by: (item: T) => unknown): Map<string, T[]> {
  const groups = new Map<string, T[]>()
  for (const item of items) {
    const key = JSON.stringify(by(item))
    groups.set(key, [...(groups.get(key) ?? []), item])
  }
  return groups
}
