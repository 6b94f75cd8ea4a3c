import { bitsOf, familyOf, formatAddress, parseAddress, type Address, type Family } from './address'

/** A CIDR prefix (RFC 4632, RFC 4291 2.3): `address` has no bits set beyond `length`. */
export interface Prefix {
  readonly address: Address
  readonly length: number
}

/** Why a text is no prefix; `meant` is the prefix it most likely stands for. */
export interface PrefixFault {
  readonly fault: 'not-a-prefix' | 'host-bits' | 'no-length'
  readonly meant?: string
}

/** The family of a prefix: 4 or 6. */
export const prefixFamily = (prefix: Prefix): Family => familyOf(prefix.address)

/** Clears the bits of `address` beyond `length`. */
export function networkPart(address: Address, length: number): Address {
  if (typeof address === 'number') {
    return length === 0 ? 0 : (address & (0xffffffff << (32 - length))) >>> 0
  }
  const hostBits = BigInt(128 - length)
  return (address >> hostBits) << hostBits
}

/** The highest address of the prefix. */
export function lastAddress(prefix: Prefix): Address {
  if (typeof prefix.address === 'number') return prefix.address + 2 ** (32 - prefix.length) - 1
  return prefix.address | ((1n << BigInt(128 - prefix.length)) - 1n)
}

/** Whether a prefix contains an address of either family. */
export const containsAddress = (prefix: Prefix, address: Address): boolean =>
  typeof address === typeof prefix.address && networkPart(address, prefix.length) === prefix.address

/** Whether a prefix contains another one, or is the same. */
export const containsPrefix = (outer: Prefix, inner: Prefix): boolean =>
  outer.length <= inner.length && containsAddress(outer, inner.address)

/** Whether two prefixes of one family have an address in common. */
export const prefixesOverlap = (a: Prefix, b: Prefix): boolean =>
  containsPrefix(a, b) || containsPrefix(b, a)

/** Reads a prefix in CIDR form, or says what is wrong with it. */
export function parsePrefix(text: string): Prefix | PrefixFault {
  const slash = text.indexOf('/')
  if (slash < 0) {
    const address = parseAddress(text)
    return address === null
      ? { fault: 'not-a-prefix' }
      : { fault: 'no-length', meant: `${formatAddress(address)}/${bitsOf(familyOf(address))}` }
  }
  const address = parseAddress(text.slice(0, slash))
  const digits = text.slice(slash + 1)
  if (address === null || !/^(0|[1-9]\d{0,2})$/.test(digits)) return { fault: 'not-a-prefix' }
  const length = Number(digits)
  if (length > bitsOf(familyOf(address))) return { fault: 'not-a-prefix' }
  const prefix = { address: networkPart(address, length), length }
  return prefix.address === address ? prefix : { fault: 'host-bits', meant: formatPrefix(prefix) }
}

/** Whether reading a prefix gave a fault instead of a prefix. */
export const isPrefixFault = (result: Prefix | PrefixFault): result is PrefixFault =>
  'fault' in result

/**
 * Reads a prefix that is known to be valid. Throws on anything else: that is a bug in the caller.
 */
export function prefixOf(text: string): Prefix {
  const result = parsePrefix(text)
  if (isPrefixFault(result)) throw new Error(`"${text}" is no prefix (${result.fault})`)
  return result
}

/**
 * Reads an address that is known to be valid. Throws on anything else: that is a bug in the caller.
 */
export function addressOf(text: string): Address {
  const address = parseAddress(text)
  if (address === null) throw new Error(`"${text}" is no address`)
  return address
}

/** A prefix as text in CIDR form (RFC 4632, RFC 5952). */
export const formatPrefix = (prefix: Prefix): string =>
  `${formatAddress(prefix.address)}/${prefix.length}`

/** The prefix of one address alone. */
export const hostPrefix = (address: Address): Prefix => ({
  address,
  length: bitsOf(familyOf(address)),
})

/**
 * Orders by family, then address, then the shorter prefix first, so that a prefix comes before all
 * that it contains.
 */
export function comparePrefixes(a: Prefix, b: Prefix): number {
  const family = prefixFamily(a) - prefixFamily(b)
  if (family !== 0) return family
  return a.address < b.address ? -1 : a.address > b.address ? 1 : a.length - b.length
}
