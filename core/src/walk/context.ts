import type { WalkContext } from './state'

/** What a walk must be told; of the rest, what is left out is not asked for. */
type Given = Pick<WalkContext, 'model' | 'about' | 'scope'> & {
  readonly [K in keyof WalkContext]?: WalkContext[K] | undefined
}

/**
 * The context of a walk. Like a state (`changed`), it is written out field by field: walks read it
 * at every step, and read it faster where all contexts are of one shape.
 */
export const contextOf = (given: Given): WalkContext => ({
  model: given.model,
  direction: given.direction ?? 'forward',
  answers: given.answers ?? null,
  about: given.about,
  ignoresRules: given.ignoresRules ?? false,
  defersRules: given.defersRules ?? false,
  pausesAtTransits: given.pausesAtTransits ?? false,
  home: given.home ?? null,
  publicSources: given.publicSources ?? false,
  evidence: given.evidence ?? false,
  keptApart: given.keptApart,
  noteAsked: given.noteAsked,
  scope: given.scope,
  beyondFaults: given.beyondFaults ?? false,
})

/** A context with some of its parts changed. */
export const contextWith = (context: WalkContext, changes: Partial<WalkContext>): WalkContext =>
  Object.assign(contextOf(context), changes)
