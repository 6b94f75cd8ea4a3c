import { printConsequences, type ConsequenceFlags } from './consequences'
import { REFUSED } from './exit-status'
import { estateOrComplain } from './read-files'

/** `salt-trail diff OLD NEW`: what changed, and everything that follows from it. */
export function diff(old: string, now: string, flags: ConsequenceFlags): number {
  const [before, after] = [estateOrComplain([old]), estateOrComplain([now])]
  return before && after ? printConsequences(before, after, flags) : REFUSED
}
