export interface View {
  readonly key: string
  readonly name: string
  readonly title: string
}

/** The views of a revision, in the order of their number keys. */
export const VIEWS: readonly View[] = [
  { key: '1', name: 'exits', title: 'Exits' },
  { key: '2', name: 'trace', title: 'Trace' },
]

/** Where each view is for the revision on screen. */
export function useViews() {
  const estate = useEstate()
  const route = useRoute()
  // The last question asked stays with the trace view while others are looked at.
  const lastTrace = useState<Record<string, string>>('last-trace', () => ({}))
  watchEffect(() => {
    if (route.path.endsWith('/trace') && route.query.from) lastTrace.value = route.query as Record<string, string>
  })
  const linkTo = (view: View) => ({ path: `/${estate.slug}/${estate.revision}/${view.name}`, query: view.name === 'trace' ? lastTrace.value : {} })
  return { views: VIEWS, linkTo }
}
