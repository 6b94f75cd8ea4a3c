import type { ExitWay } from '@salt-trail/core'

/** A way of a cell, as tests need it. */
export const way = (more: Partial<ExitWay>): ExitWay => ({
  kind: 'direct',
  by: 'gateways/door',
  way: ['gateways/door'],
  branches: 0,
  leavesBy: 'gateways/door',
  seenAs: ['203.0.113.5'],
  cause: null,
  ranges: null,
  moreRanges: 0,
  family: 4,
  hosts: null,
  question: { from: 'subnet:a', to: 'internet' },
  ...more,
})
