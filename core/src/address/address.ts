/**
 * IP addresses as plain values: an IPv4 address is a `number` (0 … 2³²−1), an IPv6 address is a
 * `bigint` (0 … 2¹²⁸−1). The JavaScript type is the family, so addresses compare with `===` and
 * `<`, work as map keys, and IPv4, the bulk of all data, never allocates.
 */
export type Address = number | bigint
export type Family = 4 | 6

/** How many bits an address of a family has: 32 or 128. */
export const bitsOf = (family: Family): number => (family === 4 ? 32 : 128)
/** The family of an address: 4 or 6. */
export const familyOf = (address: Address): Family => (typeof address === 'number' ? 4 : 6)

/** The lowest address of a family. */
export const lowestOf = (family: Family): Address => (family === 4 ? 0 : 0n)
/** The highest address of a family. */
export const highestOf = (family: Family): Address =>
  family === 4 ? 0xffffffff : (1n << 128n) - 1n

/** Orders IPv4 before IPv6, then by value. */
export function compareAddresses(a: Address, b: Address): number {
  const family = familyOf(a) - familyOf(b)
  return family !== 0 ? family : a < b ? -1 : a > b ? 1 : 0
}

/** The next address up, or null past the end of the family's space. */
export function nextAddress(address: Address): Address | null {
  if (address === highestOf(familyOf(address))) return null
  return typeof address === 'number' ? address + 1 : address + 1n
}

/** The next address down, or null below the start of the family's space. */
export function previousAddress(address: Address): Address | null {
  if (address === lowestOf(familyOf(address))) return null
  return typeof address === 'number' ? address - 1 : address - 1n
}

/** `address + count`, which must stay inside the family's space. */
export const addressPlus = (address: Address, count: number): Address =>
  typeof address === 'number' ? address + count : address + BigInt(count)

/**
 * Reads an IPv4 address (RFC 791, dotted quad without leading zeros) or an IPv6 address (RFC 4291,
 * 2.2). Null if it is neither.
 */
export function parseAddress(text: string): Address | null {
  return text.includes(':') ? parseIpv6(text) : parseIpv4(text)
}

/** Character by character: estates hold hundreds of thousands of these. */
function parseIpv4(text: string): number | null {
  let value = 0
  let octet = -1
  let dots = 0
  for (let i = 0; i < text.length; i++) {
    const digit = text.charCodeAt(i) - 48
    if (digit >= 0 && digit <= 9) {
      // No leading zeros, which some read as octal.
      if (octet === 0) return null
      octet = octet < 0 ? digit : octet * 10 + digit
      if (octet > 255) return null
    } else {
      if (digit !== -2 || octet < 0) return null
      value = value * 256 + octet
      octet = -1
      dots++
    }
  }
  return dots === 3 && octet >= 0 ? value * 256 + octet : null
}

function parseIpv6(text: string): bigint | null {
  let rest = text
  const tail: string[] = []
  // The last 32 bits may be written as a dotted quad (RFC 4291, 2.2.3).
  const quad = /^(.*:)(\d+\.\d+\.\d+\.\d+)$/.exec(text)
  if (quad) {
    const value = parseIpv4(quad[2]!)
    if (value === null) return null
    tail.push((value >>> 16).toString(16), (value & 0xffff).toString(16))
    rest = quad[1]!.endsWith('::') ? quad[1]! : quad[1]!.slice(0, -1)
  }
  const halves = rest.split('::')
  if (halves.length > 2) return null
  const words = (half: string): string[] => (half === '' ? [] : half.split(':'))
  const head = words(halves[0]!)
  const back = [...(halves.length === 2 ? words(halves[1]!) : []), ...tail]
  if (halves.length === 1) {
    if (head.length + back.length !== 8) return null
  } else if (head.length + back.length > 7) return null
  const all = [...head, ...new Array<string>(8 - head.length - back.length).fill('0'), ...back]
  let value = 0n
  for (const word of all) {
    if (!/^[0-9a-fA-F]{1,4}$/.test(word)) return null
    value = (value << 16n) | BigInt(parseInt(word, 16))
  }
  return value
}

/** Writes an address: dotted quad for IPv4, the canonical form of RFC 5952 for IPv6. */
export function formatAddress(address: Address): string {
  if (typeof address === 'number') {
    return `${address >>> 24}.${(address >>> 16) & 255}.${(address >>> 8) & 255}.${address & 255}`
  }
  const words: number[] = []
  for (let shift = 112n; shift >= 0n; shift -= 16n) words.push(Number((address >> shift) & 0xffffn))
  // RFC 5952, 5: addresses that carry an IPv4 address under the well-known prefix keep the dotted
  // quad.
  if (words.slice(0, 5).every((w) => w === 0) && words[5] === 0xffff) {
    return `::ffff:${formatAddress(words[6]! * 65536 + words[7]!)}`
  }
  const run = longestZeroRun(words)
  const hex = (from: number, to: number): string =>
    words
      .slice(from, to)
      .map((w) => w.toString(16))
      .join(':')
  return run.length < 2 ? hex(0, 8) : `${hex(0, run.start)}::${hex(run.start + run.length, 8)}`
}

function longestZeroRun(words: readonly number[]): { start: number; length: number } {
  let best = { start: 0, length: 0 }
  let start = 0
  words.forEach((word, index) => {
    if (word !== 0) start = index + 1
    else if (index + 1 - start > best.length) best = { start, length: index + 1 - start }
  })
  return best
}
