/** How much work may be done for one question; what is asked beyond it is left out, and told. */
export interface Budget {
  /** Takes one unit of work; false once there is none left. */
  readonly take: () => boolean
  /** Whether a unit was refused, or work is to stop. */
  readonly isUsedUp: () => boolean
}

/** How many pairs of walks are made where nothing else is said: some 20 seconds. */
export const MOST_PAIRS = 200_000

/**
 * A budget of so many units. `stop` is asked every 256 units; where it says true, nothing is left
 * of the budget.
 */
export function budgetOf(units: number = MOST_PAIRS, stop: () => boolean = () => false): Budget {
  let left = units
  return {
    take: () => {
      if (left > 0 && left % 256 === 0 && stop()) left = 0
      return left-- > 0
    },
    isUsedUp: () => {
      if (left >= 0 && stop()) left = -1
      return left < 0
    },
  }
}
