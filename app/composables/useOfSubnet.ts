import { failureText } from '~/stores/estate'

/**
 * What the server computes of the subnet in the address bar, else of the first one; asked again
 * when either changes. Of a second one (`with`), which may be of another revision (`of`), nothing
 * where none is named.
 */
export function useOfSubnet<T>(path: 'hops' | 'ways-in', of: 'subnet' | 'with' = 'subnet') {
  const estate = useEstate()
  const route = useRoute()
  const subnet = computed(() => {
    const named = route.query[of]
    return typeof named === 'string'
      ? named
      : of === 'with'
        ? ''
        : (estate.outline?.subnets[0]?.id ?? '')
  })
  const base = computed(() => {
    const revision = of === 'with' ? route.query.of : undefined
    return typeof revision === 'string' ? `/api/estates/${estate.slug}/${revision}` : estate.base
  })
  const answer = shallowRef<T | null>(null)
  const failure = ref<string | null>(null)
  watch(
    [subnet, base, () => estate.outline],
    async ([id]) => {
      if (id === '') answer.value = null
      if (!estate.outline || id === '') return
      const asked = `${base.value} ${id}`
      const isCurrent = (): boolean => asked === `${base.value} ${subnet.value}`
      failure.value = null
      answer.value = null
      try {
        const found = (await $fetch<unknown>(`${base.value}/${path}`, {
          query: { subnet: id },
        })) as T
        if (isCurrent()) answer.value = found
      } catch (error) {
        if (isCurrent()) failure.value = failureText(error)
      }
    },
    { immediate: true },
  )
  return { subnet, answer, failure }
}
