/** Nothing found, or delivered there and back. */
export const FINE = 0
/** Something found, or not delivered. */
export const FOUND = 1
/** The input was refused. */
export const REFUSED = 2

/** Says on stderr why a command line is refused; gives the exit status. */
export function refuse(message: string): typeof REFUSED {
  process.stderr.write(`salt-trail: ${message}\n`)
  return REFUSED
}
