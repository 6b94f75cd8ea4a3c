import type { ObjectPage } from '~/api/answers'
import { useAnswer } from '~/api/useAnswer'

/**
 * An object of the open draft as the server has it. What was answered last stays while the next
 * version of the draft is asked for, so that whoever edits it is not interrupted.
 */
export function useEditedObject(object: () => string) {
  const estate = useEstate()
  const chosen = computed(object)
  const { answer, error } = useAnswer<'object'>(() =>
    estate.outline?.draft && chosen.value !== ''
      ? { base: estate.fixedBase!, path: 'object', query: { ref: chosen.value } }
      : null,
  )
  /** Null for an object that is not there. */
  const page = shallowRef<ObjectPage | null>(null)
  /** True for an object that is not there yet. */
  const isNew = ref(false)
  watch(chosen, () => {
    page.value = null
    isNew.value = false
  })
  watch(
    [answer, error, chosen],
    () => {
      const isMissing = (error.value as { statusCode?: number } | null)?.statusCode === 404
      if (!isMissing && answer.value?.ref !== chosen.value) return
      page.value = isMissing ? null : answer.value
      isNew.value = isMissing
    },
    { immediate: true },
  )
  return { page, isNew }
}
