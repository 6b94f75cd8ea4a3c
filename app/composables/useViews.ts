export interface View {
  readonly key: string
  readonly name: string
  readonly title: string
}

/** The views of a revision, in their order, each with its number key. */
export const VIEWS: readonly View[] = [
  { key: '1', name: 'exits', title: 'Exits' },
  { key: '2', name: 'trace', title: 'Trace' },
  { key: '3', name: 'next-hops', title: 'Next hops' },
  { key: '4', name: 'ways-in', title: 'Ways in' },
  { key: '5', name: 'findings', title: 'Findings' },
  { key: '6', name: 'map', title: 'Map' },
  { key: '7', name: 'addresses', title: 'Addresses' },
  { key: '8', name: 'expectations', title: 'Expectations' },
  { key: '0', name: 'draft', title: 'Draft' },
  { key: '9', name: 'revisions', title: 'Revisions' },
]

/** Where each view is for the revision on screen. */
export function useViews() {
  const estate = useEstate()
  const route = useRoute()
  // The last question asked stays with the trace view while others are looked at.
  const lastTrace = useState<Record<string, string>>('last-trace', () => ({}))
  const selected = useSelectedSubnet()
  watchEffect(() => {
    if (typeof route.query.subnet === 'string') selected.value = route.query.subnet
    if (route.path.endsWith('/trace') && route.query.from)
      lastTrace.value = route.query as Record<string, string>
  })
  // A subnet that another estate or revision had is not asked for here.
  const known = computed(
    () => estate.outline?.subnets.some(({ id }) => id === selected.value) === true,
  )
  const queryOf = ({ name }: View): Record<string, string> => {
    if (name === 'trace') return lastTrace.value
    if (!known.value) return {}
    if (name === 'map') return { at: `subnets/${selected.value}` }
    return name === 'next-hops' ? { subnet: selected.value! } : {}
  }
  const linkTo = (view: View) => ({
    path: `/${estate.slug}/${estate.revision}/${view.name}`,
    query: { ...queryOf(view), ...(route.query.against ? { against: route.query.against } : {}) },
  })
  return { views: VIEWS, linkTo }
}
