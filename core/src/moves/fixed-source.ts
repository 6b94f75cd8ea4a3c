import { parseAddress } from '../address/address'
import { pointer, type Operation } from '../changes/index'
import type { Nat } from '../format/estate'
import { freeReserve } from '../mend/recipes/translators'
import type { Model } from '../model/model'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'

export type FixedSourceMove =
  | {
      /** Has a NAT show itself to a partner by one address that stays. */
      readonly act: 'fix'
      readonly nat: string
      readonly party: string
      /** One of the NAT's own, or one that is reserved; the first free one where left out. */
      readonly address?: string | undefined
    }
  | {
      /** Takes an address out of use while what stands goes on. */
      readonly act: 'drain'
      readonly nat: string
      readonly address: string
    }
  | {
      /** Puts another in its place, and drains the old one. */
      readonly act: 'swap'
      readonly nat: string
      readonly address: string
      readonly by?: string | undefined
    }

/** Fixes, drains or swaps the public address that a NAT shows. */
export function fixedSource(model: Model, move: FixedSourceMove): Moved | NotMoved {
  const nat = model.estate.nats.get(move.nat)
  if (!nat) return notMoved(`there is no NAT "${move.nat}" in this estate`)
  if (move.act === 'fix') return fix(model, nat, move)
  const uses = [...(nat.addresses ?? []), ...(nat.rules ?? []).flatMap(({ use }) => use)]
  if (!uses.includes(move.address))
    return notMoved(`${move.nat} does not have ${move.address}; it has ${listed(uses)}`)
  return move.act === 'drain' ? drain(nat, move) : swap(model, nat, move)
}

/** An address for a NAT: the one that is wanted if it is free, else the first of the reserve. */
function chosen(model: Model, nat: Nat, wanted: string | undefined): string | NotMoved {
  const free = freeReserve(model).map(({ id }) => id)
  if (wanted === undefined)
    return free[0] ?? notMoved('no public address is reserved and free: reserve one first')
  const isOwn = nat.addresses?.includes(wanted) === true
  return isOwn || free.includes(wanted)
    ? wanted
    : notMoved(`${wanted} is not free: these are reserved and free: ${listed(free) || 'none'}`)
}

function fix(
  model: Model,
  nat: Nat,
  move: Extract<FixedSourceMove, { act: 'fix' }>,
): Moved | NotMoved {
  const party = model.estate.parties.get(move.party)
  if (!party) return notMoved(`there is no party "${move.party}" in this estate`)
  if (!party.ranges?.length) return notMoved(`${move.party} has no ranges a rule could name`)
  if (nat.allocation === 'automatic')
    return notMoved(`${move.nat} takes its addresses automatically: set "allocation: manual" first`)
  const address = chosen(model, nat, move.address)
  if (typeof address !== 'string') return address
  const order = Math.max(0, ...(nat.rules ?? []).map((rule) => rule.order)) + 10
  const rule = { order, to: party.ranges, use: [address] }
  const path = pointer('nats', move.nat, 'rules')
  const operations: Operation[] = [
    nat.rules ? { op: 'add', path: `${path}/-`, value: rule } : { op: 'add', path, value: [rule] },
  ]
  const listedThere = party.allowlist?.some((text) => text.split('/')[0] === address)
  return moved(
    `show ${address} to ${move.party}`,
    operations,
    party.allowlist && !listedThere
      ? [`${move.party} does not have ${address} on its list yet`]
      : [],
  )
}

function drain(nat: Nat, { nat: id, address }: { nat: string; address: string }): Moved | NotMoved {
  if (nat.draining?.some((one) => parseAddress(one) === parseAddress(address)))
    return notMoved(`${address} is draining already`)
  const path = pointer('nats', id, 'draining')
  return moved(`drain ${address} of ${id}`, [
    nat.draining
      ? { op: 'add', path: `${path}/-`, value: address }
      : { op: 'add', path, value: [address] },
  ])
}

function swap(
  model: Model,
  nat: Nat,
  { nat: id, address, by }: Extract<FixedSourceMove, { act: 'swap' }>,
): Moved | NotMoved {
  const now = chosen(model, nat, by)
  if (typeof now !== 'string') return now
  const operations: Operation[] = []
  const held = nat.addresses ?? []
  if (held.includes(address) && !held.includes(now))
    operations.push({ op: 'add', path: pointer('nats', id, 'addresses', '-'), value: now })
  for (const [at, rule] of (nat.rules ?? []).entries()) {
    const use = rule.use.indexOf(address)
    if (use >= 0)
      operations.push({
        op: 'replace',
        path: pointer('nats', id, 'rules', at, 'use', use),
        value: now,
      })
  }
  if (held.includes(address)) {
    const drained = drain(nat, { nat: id, address })
    if (drained.ok) operations.push(...drained.change)
  }
  return moved(`show ${now} instead of ${address}, and drain ${address}`, operations)
}
