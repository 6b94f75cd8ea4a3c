import { compareAddresses, type Address } from './address'

/**
 * An odd number of 64 bits that spreads what it multiplies (the golden ratio, after Knuth's
 * multiplicative hashing).
 */
const SPREAD = 0x9e3779b97f4a7c15n

/**
 * An IPv6 address under which a Map or Set finds it soon. They hash a bigint by its low 64 bits
 * alone, and many networks number their hosts alike, so that all their addresses would lie in one
 * chain. The low half is mixed with the high one, which stays as it is: applied twice, it is
 * undone.
 */
const folded = (address: Address): Address =>
  typeof address === 'bigint' ? address ^ BigInt.asUintN(64, (address >> 64n) * SPREAD) : address

/** A map from addresses, of both families, that stays fast with many IPv6 hosts. */
export class AddressMap<T> extends Map<Address, T> {
  override get(address: Address): T | undefined {
    return super.get(folded(address))
  }
  override has(address: Address): boolean {
    return super.has(folded(address))
  }
  override set(address: Address, value: T): this {
    return super.set(folded(address), value)
  }
  override delete(address: Address): boolean {
    return super.delete(folded(address))
  }
  override *keys(): MapIterator<Address> {
    for (const key of super.keys()) yield folded(key)
  }
  override *entries(): MapIterator<[Address, T]> {
    for (const [key, value] of super.entries()) yield [folded(key), value]
  }
  override [Symbol.iterator](): MapIterator<[Address, T]> {
    return this.entries()
  }
  override forEach(each: (value: T, address: Address, map: Map<Address, T>) => void): void {
    for (const [address, value] of this) each(value, address, this)
  }
}

/** The same as a set. */
export class AddressSet extends Set<Address> {
  override has(address: Address): boolean {
    return super.has(folded(address))
  }
  override add(address: Address): this {
    return super.add(folded(address))
  }
  override delete(address: Address): boolean {
    return super.delete(folded(address))
  }
  override *values(): SetIterator<Address> {
    for (const value of super.values()) yield folded(value)
  }
  override keys(): SetIterator<Address> {
    return this.values()
  }
  override *entries(): SetIterator<[Address, Address]> {
    for (const value of this.values()) yield [value, value]
  }
  override [Symbol.iterator](): SetIterator<Address> {
    return this.values()
  }
  override forEach(each: (value: Address, same: Address, set: Set<Address>) => void): void {
    for (const value of this) each(value, value, this)
  }
}

/** Addresses in their order, each once. */
export const sortedOnce = (addresses: readonly Address[]): Address[] =>
  [...addresses]
    .sort(compareAddresses)
    .filter((address, at, all) => at === 0 || address !== all[at - 1])
