/** Nothing found, or delivered there and back. */
export const FINE = 0
/** Something found, or not delivered. */
export const FOUND = 1
/** The input was refused. */
export const REFUSED = 2
