import { failureText } from '~/stores/estate'
import type { RevisionInfo } from '~/stores/outline'

/**
 * The revisions of the estate on screen, the newest first; asked for again when a newer one is
 * shown.
 */
export function useRevisions() {
  const estate = useEstate()
  const revisions = shallowRef<readonly RevisionInfo[]>([])
  const failure = ref<string | null>(null)
  watch(
    [() => estate.slug, () => estate.outline?.head],
    async ([slug]) => {
      if (!slug) return
      try {
        const found = await $fetch<RevisionInfo[]>(`/api/estates/${slug}/revisions`)
        if (slug === estate.slug) revisions.value = found
        failure.value = null
      } catch (error) {
        failure.value = failureText(error)
      }
    },
    { immediate: true },
  )
  return { revisions, failure }
}
