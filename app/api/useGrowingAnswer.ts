import { failureText } from './failure-text'
import { ask, type Asked } from './request'
import type { RevisionAnswer, RevisionPath } from './answers'

/**
 * An answer that grows while it is asked for: what is known so far, asked again until it is whole.
 * Nothing is asked once the question changes or its view is gone. While the next question of the
 * same kind is on its way, the last answer stays.
 */
export function useGrowingAnswer<P extends RevisionPath>(
  question: () => Asked<P> | null,
  isWhole: (answer: RevisionAnswer<P>) => boolean,
) {
  const answer = shallowRef<RevisionAnswer<P> | null>(null)
  const failure = ref<string | null>(null)
  const key = computed(() => JSON.stringify(question()))
  watch(
    key,
    async (_now, _was, onCleanup) => {
      const gone = new AbortController()
      onCleanup(() => gone.abort())
      failure.value = null
      const one = question()
      if (one === null) {
        answer.value = null
        return
      }
      try {
        for (;;) {
          const next = await ask<P>(one, gone.signal)
          if (gone.signal.aborted) return
          answer.value = next
          if (isWhole(next)) return
        }
      } catch (error) {
        if (!gone.signal.aborted) failure.value = failureText(error)
      }
    },
    { immediate: true },
  )
  return { answer, failure }
}
