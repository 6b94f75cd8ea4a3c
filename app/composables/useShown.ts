import type { Branch, Trace } from '@salt-trail/core'
import { failureText } from '~/stores/estate'
import type { AskedQuestion } from './useAsk'

/**
 * The trace that shows something, fetched when its question changes: the branch that decides it.
 */
export function useShown(question: () => AskedQuestion | null) {
  const estate = useEstate()
  const branch = shallowRef<Branch | null>(null)
  const failure = ref<string | null>(null)
  watch(
    [() => JSON.stringify(question()), () => estate.base],
    async ([written, base]) => {
      branch.value = null
      failure.value = null
      const wanted = question()
      if (!wanted) return
      const isCurrent = (): boolean =>
        written === JSON.stringify(question()) && base === estate.base
      try {
        const found = await $fetch<Trace>(`${base}/trace`, {
          method: 'POST',
          body: { protocol: 'tcp', port: 443, ...wanted, continue: true },
        })
        if (isCurrent())
          branch.value = found.branches.find((one) => one.verdict === found.verdict) ?? found
      } catch (error) {
        if (isCurrent()) failure.value = failureText(error)
      }
    },
    { immediate: true },
  )
  return { branch, failure }
}
