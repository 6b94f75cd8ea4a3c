import { planOf, planText, shareWith, type Plan } from '@salt-trail/core'
import { FINE, FOUND, REFUSED } from './exit-status'
import { estateOrComplain } from './read-files'

/** An order is searched no longer than this; what is found then says that it was ended. */
const MOST_MILLISECONDS = 300_000

/**
 * `salt-trail plan OLD NEW`: the steps by which one becomes the other, as Markdown or JSON. Status
 * 1 where no order without a gap was found.
 */
export function plan(old: string, now: string, flags: { readonly json?: boolean }): number {
  const [before, after] = [estateOrComplain([old]), estateOrComplain([now])]
  if (!before || !after) return REFUSED
  const end = performance.now() + MOST_MILLISECONDS
  const made = planOf(before, shareWith(before, after), () => performance.now() > end)
  process.stdout.write(
    flags.json ? `${JSON.stringify(planJson(made), null, 2)}\n` : planText(made, before.name),
  )
  return made.gapless ? FINE : FOUND
}

/** A plan without what is there for reading. */
const planJson = ({ steps, ...plan }: Plan) => ({
  steps: steps.map(({ told: _, ...step }) => step),
  ...plan,
})
