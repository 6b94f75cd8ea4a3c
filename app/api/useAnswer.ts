import { useQuery } from '@pinia/colada'
import type { RevisionAnswer, RevisionPath } from './answers'
import { ask, type Asked } from './request'
import { failureText } from './failure-text'

/**
 * The answer to a question about a revision; asked again when the question changes, and dropped
 * when it is null. Answers are cached by their question, since revisions never change: the base
 * names a revision by its number, as `fixedBase` of the estate on screen does.
 */
export function useAnswer<P extends RevisionPath>(question: () => Asked<P> | null) {
  const asked = computed(question)
  const { data, error, asyncStatus } = useQuery<RevisionAnswer<P>>(() => {
    const one = asked.value
    return {
      key: one ? keyOf(one) : ['nothing asked'],
      query: ({ signal }) => ask(one!, signal),
      enabled: one !== null,
    }
  })
  return {
    /** Null until it is there, and where nothing is asked. */
    answer: computed(() => (asked.value === null ? null : (data.value ?? null))),
    failure: computed(() =>
      asked.value !== null && error.value !== null ? failureText(error.value) : null,
    ),
    /** The error itself, for what the server says besides its words. */
    error,
    isLoading: computed(() => asked.value !== null && asyncStatus.value === 'loading'),
  }
}

/** By which an answer is cached. */
export const keyOf = <P extends RevisionPath>({ base, path, query, body }: Asked<P>): string[] => [
  base,
  path,
  JSON.stringify([query ?? null, body ?? null]),
]
