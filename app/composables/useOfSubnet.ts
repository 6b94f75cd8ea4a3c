import { failureText } from '~/stores/estate'

/**
 * What the server computes of the subnet in the address bar, else of the first one; asked again when
 * either changes. Of a second one (`with`) nothing, where none is named.
 */
export function useOfSubnet<T>(path: 'hops' | 'ways-in', of: 'subnet' | 'with' = 'subnet') {
  const estate = useEstate()
  const route = useRoute()
  const subnet = computed(() => {
    const named = route.query[of]
    return typeof named === 'string' ? named : of === 'with' ? '' : (estate.outline?.subnets[0]?.id ?? '')
  })
  const answer = shallowRef<T | null>(null)
  const failure = ref<string | null>(null)
  watch(
    [subnet, () => estate.base, () => estate.outline],
    async ([id]) => {
      if (id === '') answer.value = null
      if (!estate.outline || id === '') return
      const asked = `${estate.base} ${id}`
      const isCurrent = (): boolean => asked === `${estate.base} ${subnet.value}`
      failure.value = null
      answer.value = null
      try {
        const found = (await $fetch<unknown>(`${estate.base}/${path}`, { query: { subnet: id } })) as T
        if (isCurrent()) answer.value = found
      } catch (error) {
        if (isCurrent()) failure.value = failureText(error)
      }
    },
    { immediate: true },
  )
  return { subnet, answer, failure }
}
