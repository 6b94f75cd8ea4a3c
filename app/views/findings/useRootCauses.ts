import { useQuery } from '@pinia/colada'
import type { RootCausesPage } from '~/api/answers'
import { failureText } from '~/api/failure-text'
import { ask } from '~/api/request'
import { keyOf } from '~/api/useAnswer'
import { findingsQuery, type FindingsChosen } from '~/views/findings/useFindings'

/** So many root causes are listed; an estate has far fewer, however large it is. */
const MOST_LISTED = 500

/** The root causes of the findings that are chosen, the gravest first; none where none are. */
export function useRootCauses(chosen: () => Omit<FindingsChosen, 'by' | 'rootCause'> | null) {
  const estate = useEstate()
  const asked = computed(() => {
    const wanted = chosen()
    return estate.fixedBase === null || !estate.isDone || wanted === null
      ? null
      : {
          base: estate.fixedBase,
          path: 'root-causes' as const,
          query: { ...findingsQuery(wanted), count: MOST_LISTED },
        }
  })
  const { data, error } = useQuery<RootCausesPage>(() => ({
    key: asked.value ? ['root causes', ...keyOf(asked.value)] : ['nothing asked'],
    query: ({ signal }) => ask<'root-causes'>(asked.value!, signal),
    enabled: asked.value !== null,
    placeholderData: (previous) => previous,
  }))
  return {
    found: computed(() => (asked.value === null ? null : (data.value ?? null))),
    failure: computed(() => (asked.value && error.value ? failureText(error.value) : null)),
  }
}
