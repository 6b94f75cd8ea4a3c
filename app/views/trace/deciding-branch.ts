import type { Branch, Trace } from '@salt-trail/core'

/** The branch that gives a trace its verdict. */
export const decidingBranch = (trace: Trace): Branch =>
  trace.branches.find((one) => one.verdict === trace.verdict) ?? trace
