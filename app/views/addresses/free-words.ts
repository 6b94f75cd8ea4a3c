/** How many addresses of a subnet are taken and usable; the latter may be a power of two. */
export interface Filled {
  readonly taken: number
  readonly usable: string
}

/** From here on numbers say no more than that it is plenty. */
const MOST_DIGITS = 10

/** What is left in a subnet: `249 of 251`. */
export function freeText({ taken, usable }: Filled): string {
  if (usable.length > MOST_DIGITS) return 'plenty'
  const all = Number(usable)
  return `${(all - taken).toLocaleString('en-GB')} of ${all.toLocaleString('en-GB')}`
}
