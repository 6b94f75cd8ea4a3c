import { useAnswer } from '~/api/useAnswer'

/**
 * The server's answer about the subnet named in the page's address, else about the first one. A
 * second subnet (`with`), which may be of another revision (`of`), has no answer where none is
 * named.
 */
export function useOfSubnet<P extends 'hops' | 'ways-in'>(
  path: P,
  named: 'subnet' | 'with' = 'subnet',
) {
  const estate = useEstate()
  const route = useRoute()
  const subnet = computed(() => {
    const one = route.query[named]
    if (typeof one === 'string') return one
    return named === 'with' ? '' : (estate.outline?.subnets[0]?.id ?? '')
  })
  const base = computed(() => {
    const revision = named === 'with' ? route.query.of : undefined
    return typeof revision === 'string' ? estate.baseOf(revision) : estate.fixedBase
  })
  const { answer, failure } = useAnswer<P>(() =>
    base.value === null || subnet.value === ''
      ? null
      : { base: base.value, path, query: { subnet: subnet.value } },
  )
  return { subnet, answer, failure }
}
