import { compareAddresses, formatAddress, parseAddress, type Address } from '../address/address'
import { formatPrefix, isPrefixFault, parsePrefix, prefixOf } from '../address/prefix'
import { intersectRanges, prefixesOfRange, rangeSetOf, type RangeSet } from '../address/ranges'
import { destinationsOf } from '../exits/columns'
import { outcomesWithin } from '../hops/meet'
import { hopsOf, type HopMemo } from '../hops/hops'
import type { Model, SubnetModel } from '../model/model'

/** The observer: the internet, a party, or the owner of some addresses. */
export type Onlooker =
  | { readonly kind: 'internet' }
  | { readonly kind: 'party'; readonly id: string }
  | { readonly kind: 'range'; readonly prefix: string }

/**
 * How long an address can be relied on: reserved for good; kept as long as its translator is;
 * draining, which takes no new flows; automatic, which may change by itself; with its host, which
 * takes it along; unforeseeable; or the host's own.
 */
export type Lasting =
  'reserved' | 'kept' | 'draining' | 'automatic' | 'with-host' | 'unforeseeable' | 'own'

/** One subnet as an onlooker sees it, by one way. */
export interface SubnetSeen {
  readonly subnet: string
  /** The hosts this is true of: null for all of the subnet's. */
  readonly hosts: readonly string[] | null
  readonly family: 4 | 6
  /** The destinations, as prefixes, where it is not all of them. */
  readonly ranges: readonly string[] | null
  /** What gives the address: a translator, a firewall, or the host itself (null). */
  readonly by: string | null
  /** Empty where packets keep the host's own address. */
  readonly addresses: readonly string[]
  /** Why nothing arrives, if nothing does. */
  readonly cause: { readonly code: string; readonly object: string } | null
}

export interface SeenAddress {
  /**
   * An address, or a subnet's own range where hosts keep theirs, or null where it cannot be
   * foreseen.
   */
  readonly address: string | null
  readonly by: string | null
  readonly lasting: Lasting
  /** Whether the party's allowlist has it; null where there is none. */
  readonly allowed: boolean | null
  readonly subnets: readonly string[]
}

/** The addresses by which an observer sees the estate. */
export interface SeenAs {
  readonly addresses: readonly SeenAddress[]
  /** Entries of the allowlist from which nothing of ours comes. */
  readonly unused: readonly string[]
  readonly allowlist: readonly string[] | null
  /** Subnets from which nothing arrives by either family; hosts of them, where others’ does. */
  readonly lost: readonly SubnetSeen[]
}

/**
 * Reads `internet`, `party:ID`, an address or a prefix. Null where it is none of these, or there is
 * no such party.
 */
export function readOnlooker(model: Model, text: string): Onlooker | null {
  if (text === 'internet') return { kind: 'internet' }
  if (text.startsWith('party:')) {
    const id = text.slice('party:'.length)
    return model.index.parties.has(id) ? { kind: 'party', id } : null
  }
  const address = parseAddress(text)
  if (address !== null)
    return { kind: 'range', prefix: `${text}/${typeof address === 'number' ? 32 : 128}` }
  return text.includes('/') && !isPrefixFault(parsePrefix(text))
    ? { kind: 'range', prefix: text }
    : null
}

const rangesOf = (model: Model, subnet: SubnetModel, onlooker: Onlooker): RangeSet => {
  if (onlooker.kind === 'internet') return destinationsOf(model, subnet, 'internet')
  return rangeSetOf(
    (onlooker.kind === 'party'
      ? (model.estate.parties.get(onlooker.id)?.ranges ?? [])
      : [onlooker.prefix]
    ).map(prefixOf),
  )
}

const MOST_RANGES = 12

/** As whom an onlooker sees the hosts of one subnet, by routes and translators. */
export function subnetSeenBy(
  model: Model,
  subnet: SubnetModel,
  onlooker: Onlooker,
  memo: HopMemo,
): SubnetSeen[] {
  const tables = hopsOf(model, subnet, memo)
  const ranges = rangesOf(model, subnet, onlooker)
  return tables.flatMap((table) => {
    const hosts =
      tables.length === 1 || table.kind.interfaces.length === 0
        ? null
        : table.kind.interfaces.map((index) => model.interfaces[index]!.id)
    return ([4, 6] as const).flatMap((family) => {
      if (table.kind.sources[family] === null) return []
      const parts = outcomesWithin(model, subnet, table, family, ranges, memo)
      return parts.flatMap(({ outcome, ranges: met }): SubnetSeen[] => {
        // A packet that does not leave the estate is not seen outside.
        if (outcome.cause === null && outcome.reaches === null) return []
        const { cause } = outcome
        return [
          {
            subnet: subnet.id,
            hosts,
            family,
            ranges:
              parts.length === 1
                ? null
                : met
                    .slice(0, MOST_RANGES)
                    .flatMap(prefixesOfRange)
                    .slice(0, MOST_RANGES)
                    .map(formatPrefix),
            by: cause
              ? null
              : (outcome.ways
                  .flat()
                  .reverse()
                  .find((ref) => /^(nats|firewalls)\//.test(ref)) ?? null),
            addresses: cause ? [] : outcome.seenAs,
            cause: cause && { code: cause.code, object: cause.object },
          },
        ]
      })
    })
  })
}

/** What all subnets are seen as, address by address, with how far each can be relied on. */
export function gatherSeen(model: Model, onlooker: Onlooker, seen: readonly SubnetSeen[]): SeenAs {
  const allowlist =
    onlooker.kind === 'party' ? (model.estate.parties.get(onlooker.id)?.allowlist ?? null) : null
  const allowed = allowlist === null ? null : rangeSetOf(allowlist.map(prefixOf))
  const found = new Map<
    string,
    { address: string | null; by: string | null; lasting: Lasting; subnets: Set<string> }
  >()
  const note = (
    address: string | null,
    by: string | null,
    lasting: Lasting,
    subnet: string,
  ): void => {
    const key = `${address} ${by}`
    const known = found.get(key)
    if (known) known.subnets.add(subnet)
    else found.set(key, { address, by, lasting, subnets: new Set([subnet]) })
  }
  for (const one of seen) {
    if (one.cause !== null) continue
    for (const text of one.addresses) {
      if (text === 'unpredictable') note(null, one.by, 'unforeseeable', one.subnet)
      else note(text, one.by, lastingOf(model, parseAddress(text)!, one.by), one.subnet)
    }
    if (one.addresses.length === 0)
      for (const range of ownRanges(model, one)) note(range, null, 'own', one.subnet)
    for (const text of drainingOf(model, one.by)) note(text, one.by, 'draining', one.subnet)
  }
  const addresses = [...found.values()]
    .sort((a, b) => compareAddresses(lowest(a.address), lowest(b.address)))
    .map(({ subnets, ...rest }): SeenAddress => ({
      ...rest,
      allowed: allowed === null ? null : isAllowed(allowed, rest.address),
      subnets: [...subnets],
    }))
  const arriving = new Set(seen.filter(({ cause }) => cause === null).map(whose))
  const ours = rangeSetOf(
    addresses.flatMap(({ address }) => (address === null ? [] : [asPrefix(address)])),
  )
  return {
    addresses,
    allowlist,
    unused: (allowlist ?? []).filter(
      (text) => intersectRanges(rangeSetOf([prefixOf(text)]), ours).length === 0,
    ),
    lost: seen.filter((one) => one.cause !== null && !arriving.has(whose(one))),
  }
}

/** Hosts of one kind in a subnet. */
const whose = ({ subnet, hosts }: SubnetSeen): string => `${subnet} ${hosts?.join() ?? ''}`

/** The order of addresses; unforeseeable ones come first. */
const lowest = (text: string | null): Address => (text === null ? 0 : asPrefix(text).address)
const asPrefix = (text: string) =>
  prefixOf(text.includes('/') ? text : `${text}/${text.includes(':') ? 128 : 32}`)

/** An allowlist has an address, or a whole range, if it has both its ends in one piece. */
function isAllowed(allowed: RangeSet, text: string | null): boolean {
  if (text === null) return false
  const [range] = rangeSetOf([asPrefix(text)])
  return allowed.some(
    ({ from, to }) => typeof from === typeof range!.from && from <= range!.from && range!.to <= to,
  )
}

function ownRanges(model: Model, { subnet: id, family }: SubnetSeen): string[] {
  const subnet = model.subnets[model.index.subnets.get(id)!]!
  return subnet.ranges
    .filter(({ address }) => (typeof address === 'number' ? 4 : 6) === family)
    .map(formatPrefix)
}

const natBy = (model: Model, by: string | null) =>
  by?.startsWith('nats/')
    ? model.nats[model.index.nats.get(by.slice('nats/'.length)) ?? -1]
    : undefined

function lastingOf(model: Model, address: Address, by: string | null): Lasting {
  const nat = natBy(model, by)
  if (nat?.draining.has(address)) return 'draining'
  if (nat && model.estate.nats.get(nat.id)?.allocation === 'automatic') return 'automatic'
  const noted = model.estate.publicAddresses.get(formatAddress(address))
  if (noted?.reserved === true) return 'reserved'
  const goesAlong =
    by === null &&
    noted?.reserved === false &&
    model.publicOwners.get(address)?.kind === 'interface'
  return goesAlong ? 'with-host' : 'kept'
}

const drainingOf = (model: Model, by: string | null): string[] =>
  [...(natBy(model, by)?.draining ?? [])].map(formatAddress)
