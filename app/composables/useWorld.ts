/** Which of the worlds a view answers for. */
export type World = 'draft' | 'base' | 'difference'

/**
 * Whether the views answer for the open draft, for the revision it is made in, or for what differs
 * between the two; null while no draft is open.
 */
export function useWorld() {
  const draft = useDraft()
  const estate = useEstate()
  const router = useRouter()
  const route = useRoute()
  const world = computed((): World | null => {
    if (draft.id === null) return null
    if (estate.revision !== `draft-${draft.id}`) return 'base'
    return route.query.against === 'base' ? 'difference' : 'draft'
  })
  /** The number of the base while the difference is looked at, else null. */
  const against = computed(() =>
    world.value === 'difference' ? (draft.draft?.base ?? null) : null,
  )
  function go(to: World): void {
    const revision = to === 'base' ? String(draft.draft?.base ?? 'head') : `draft-${draft.id}`
    const view = String(route.path.split('/')[3] ?? 'exits')
    const { against: _, ...query } = route.query
    void router.push({
      path: `/${estate.slug}/${revision}/${view}`,
      query: { ...query, ...(to === 'difference' ? { against: 'base', ...beside(view) } : {}) },
    })
  }
  /** Two views lay both worlds beside each other themselves. */
  function beside(view: string): Record<string, string> {
    const base = String(draft.draft?.base ?? '')
    const { from, to, over, subnet } = route.query
    if (view === 'trace' && typeof from === 'string' && typeof to === 'string')
      return { beside: `${from} > ${to} ${typeof over === 'string' ? over : ''}`, revision: base }
    if (view === 'next-hops') {
      const one = typeof subnet === 'string' ? subnet : (estate.outline?.subnets[0]?.id ?? '')
      return { subnet: one, with: one, of: base }
    }
    return {}
  }
  return { world, against, go }
}
