import type { Root } from '../findings/root'
import type { RootCause } from './root-causes'

/** A root cause as JSON: its findings by their fingerprints. */
export type RootCauseJson = Omit<RootCause, 'roots'> & {
  readonly roots: readonly (Root & { readonly findings: readonly string[] })[]
}

/** A root cause for who has the findings themselves. */
export const rootCauseJson = ({ roots, ...rest }: RootCause): RootCauseJson => ({
  ...rest,
  roots: roots.map(({ root, findings }) => ({
    ...root,
    findings: findings.map(({ fingerprint }) => fingerprint),
  })),
})

/** A root cause for a list: what decides, the first few, each with how many findings it decides. */
export type ToldRootCause = Omit<RootCause, 'roots'> & {
  readonly roots: readonly (Root & { readonly findings: number })[]
  readonly moreRoots: number
}

/** So many things that decide alike are told. */
const MOST_ROOTS = 40

/** A root cause as it is told in a list. */
export const tellRootCause = ({ roots, ...rest }: RootCause): ToldRootCause => ({
  ...rest,
  roots: roots
    .slice(0, MOST_ROOTS)
    .map(({ root, findings }) => ({ ...root, findings: findings.length })),
  moreRoots: Math.max(0, roots.length - MOST_ROOTS),
})
