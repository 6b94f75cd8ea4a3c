/**
 * A place rules are asked for: a subnet, and an interface in it unless the address is unoccupied.
 */
export interface Place {
  readonly subnet: number
  readonly interface: number
  /** The number of a frontend that stands there, if one does. */
  readonly frontend?: number
}

/** Whether two places are the same. */
export const samePlace = (a: Place, b: Place): boolean =>
  a.subnet === b.subnet && a.interface === b.interface && a.frontend === b.frontend

/** The name of a place, the same for the same one. */
export const placeKey = ({ subnet, interface: one, frontend = -1 }: Place): string =>
  `${subnet} ${one} ${frontend}`
