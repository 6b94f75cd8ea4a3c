import { useDocumentVisibility, useIntervalFn, useLocalStorage } from '@vueuse/core'
import type { Operation } from '@salt-trail/core'
import { defineStore } from 'pinia'
import type { Draft, DraftEdited } from '~/api/answers'
import { failureText } from '~/api/failure-text'

/** How soon what others do in the same draft is seen, in milliseconds. */
const LOOK_EVERY = 1_200

/**
 * The draft that is open in the estate on screen: its changes, asked for again while it is open,
 * and what is done to it. A draft stays open until it is closed, also while its base is looked at.
 */
export const useDraft = defineStore('draft', () => {
  const estate = useEstate()
  const account = useAccount()
  const openIn = useLocalStorage<Record<string, number>>('salt-trail.open-drafts', {})
  const draft = shallowRef<Draft | null>(null)
  const failure = ref('')
  const isBusy = ref(false)
  /** What somebody else wrote where the latest change wrote, too. */
  const overwritten = ref<readonly string[]>([])

  const id = computed(() => (estate.slug === null ? null : (openIn.value[estate.slug] ?? null)))
  const path = computed(() => `/api/estates/${estate.slug}/drafts/${id.value}`)
  const author = computed(() => account.name)

  function open(one: number): void {
    if (estate.slug === null || id.value === one) return
    openIn.value = { ...openIn.value, [estate.slug]: one }
    draft.value = null
    void look()
  }

  function close(): void {
    if (estate.slug === null) return
    const { [estate.slug]: _, ...others } = openIn.value
    openIn.value = others
    draft.value = null
    failure.value = ''
  }

  /** The entity tag of what is on screen, by the path that it was asked of. */
  let known = { path: '', tag: '' }

  /**
   * Asks for the draft again, where it differs from what is on screen; one that is gone is closed.
   */
  async function look(): Promise<void> {
    const asked = path.value
    if (id.value === null) return
    try {
      const isKnown = draft.value !== null && known.path === asked
      const answer = await $fetch.raw<Draft>(asked, {
        headers: isKnown ? { 'if-none-match': known.tag } : {},
      })
      if (asked !== path.value || answer.status === 304) return
      draft.value = answer._data!
      known = { path: asked, tag: answer.headers.get('etag') ?? '' }
    } catch (error) {
      if (asked !== path.value) return
      if ((error as { statusCode?: number }).statusCode === 404) close()
      else failure.value = failureText(error)
    }
  }

  /** Does something to the draft; what goes wrong is told, and nothing is lost. */
  async function act<T>(work: () => Promise<T>): Promise<T | null> {
    isBusy.value = true
    failure.value = ''
    try {
      return await work()
    } catch (error) {
      failure.value = failureText(error)
      return null
    } finally {
      isBusy.value = false
      await look()
    }
  }

  const post = <T = DraftEdited>(what: string, body: object): Promise<T | null> =>
    act(() => $fetch<unknown>(`${path.value}/${what}`, { method: 'POST', body }) as Promise<T>)

  /** Makes a change in the version of the draft that is on screen, or in one that is named. */
  async function change(
    what: string,
    patch: readonly Operation[],
    seen = draft.value?.version ?? 0,
  ): Promise<DraftEdited | null> {
    const edited = await post('changes', { what, patch, seen })
    overwritten.value = edited?.conflicts.map(({ path: place }) => place) ?? []
    return edited
  }
  const undo = (entry?: number) => post('undo', { entry })
  const redo = () => post('redo', {})
  const rebase = () => post('rebase', {})
  const describe = (words: object) =>
    act(() => $fetch<unknown>(path.value, { method: 'PUT', body: words }))
  const keepText = (object: string, text: string | null): Promise<unknown> =>
    $fetch(`${path.value}/texts`, { method: 'PUT', body: { object, text } })

  const visibility = useDocumentVisibility()
  useIntervalFn(() => {
    if (visibility.value === 'visible' && !isBusy.value && !account.hasEnded) void look()
  }, LOOK_EVERY)
  watch(id, () => void look(), { immediate: true })

  // A view of the draft follows its versions.
  watch(
    () => draft.value?.version,
    (version) => {
      const shown = estate.outline?.draft
      if (version !== undefined && shown?.id === id.value && shown?.version !== version)
        void estate.show(estate.slug!, `draft-${id.value}`, true)
    },
  )
  return {
    id,
    draft,
    failure,
    isBusy,
    overwritten,
    path,
    author,
    open,
    close,
    look,
    change,
    undo,
    redo,
    rebase,
    describe,
    keepText,
  }
})
