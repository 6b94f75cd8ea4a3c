/**
 * Addresses for the second opinion: a family digit, then the address bit by bit, all as text. A
 * prefix is the beginning of such a text, so that covering is `startsWith` and nothing can be
 * computed wrongly.
 */
export type Bits = string

const binary = (value: number, width: number): string => value.toString(2).padStart(width, '0')

/** The bits of an address as written. */
export function bitsOf(text: string): Bits {
  if (!text.includes(':'))
    return `4${text
      .split('.')
      .map((part) => binary(Number(part), 8))
      .join('')}`
  const [head = '', tail] = text.split('::')
  const words = (side: string): string[] => (side === '' ? [] : side.split(':'))
  const before = words(head)
  const after = tail === undefined ? [] : words(tail)
  const zeros = Array<string>(8 - before.length - after.length).fill('0')
  return `6${[...before, ...zeros, ...after].map((word) => binary(parseInt(word, 16), 16)).join('')}`
}

export function prefixBits(text: string): Bits {
  const [address = '', length = ''] = text.split('/')
  return bitsOf(address).slice(0, 1 + Number(length))
}

export const covers = (prefix: Bits, address: Bits): boolean => address.startsWith(prefix)
export const coveredBy = (prefixes: readonly string[] | undefined, address: Bits): boolean =>
  (prefixes ?? []).some((text) => covers(prefixBits(text), address))
export const isV4 = (address: Bits): boolean => address.startsWith('4')

/** Written out again; IPv6 without shortening, which is enough to compare by. */
export function textOf(address: Bits): string {
  const width = isV4(address) ? 8 : 16
  const parts = address.slice(1).match(new RegExp(`.{${width}}`, 'g'))!
  return parts
    .map((part) => parseInt(part, 2).toString(isV4(address) ? 10 : 16))
    .join(isV4(address) ? '.' : ':')
}

/** The next address up. */
export const next = (address: Bits): Bits => {
  const up = (BigInt(`0b${address.slice(1)}`) + 1n).toString(2)
  return address[0]! + up.padStart(address.length - 1, '0')
}

const PRIVATE = [
  '10.0.0.0/8',
  '172.16.0.0/12',
  '192.168.0.0/16',
  '100.64.0.0/10',
  '169.254.0.0/16',
  '127.0.0.0/8',
  '0.0.0.0/8',
  '224.0.0.0/3',
]

export const isPublic = (address: Bits): boolean =>
  isV4(address) ? !coveredBy(PRIVATE, address) : coveredBy(['2000::/3'], address)
