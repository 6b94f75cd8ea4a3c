import type { MarkedRow } from '@salt-trail/core'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import type { Analysis, EstateInfo, ExpectationState, Outline } from '~/api/answers'
import { ask } from '~/api/request'
import { failureText } from '~/api/failure-text'

const ROWS_AT_ONCE = 2_000

/** The estate and revision on screen, and what was computed of them. */
export const useEstate = defineStore('estate', () => {
  const slug = ref<string | null>(null)
  /** The estate looked at last, also before the page was opened anew. */
  const lastSlug = useLocalStorage('salt-trail.estate', '')
  const revision = ref('head')
  const outline = shallowRef<Outline | null>(null)
  const analysis = shallowRef<Analysis | null>(null)
  /** The rows of the matrix, all of them. */
  const exits = shallowRef<readonly MarkedRow[] | null>(null)
  const expectations = shallowRef<readonly ExpectationState[] | null>(null)
  const failure = ref<string | null>(null)

  const baseOf = (number: string): string => `/api/estates/${slug.value}/${number}`
  const base = computed(() => baseOf(revision.value))
  /**
   * The same by the revision's number, or the draft's version, which name the same content for
   * good; null until known.
   */
  const fixedBase = computed(() => {
    if (outline.value === null) return null
    const { draft, revision: shown } = outline.value
    return baseOf(draft ? `draft-${draft.id}.${draft.version}` : String(shown.number))
  })
  const isDone = computed(() => analysis.value?.state === 'done')

  /** Shows a revision. What is shown already is kept unless `again` asks for it anew. */
  async function show(wantedSlug: string, wantedRevision: string, again = false): Promise<void> {
    const same = slug.value === wantedSlug && revision.value === wantedRevision
    if (same && outline.value && !again) return
    slug.value = wantedSlug
    revision.value = wantedRevision
    failure.value = null
    if (!same) {
      outline.value = null
      analysis.value = null
      exits.value = null
      expectations.value = null
    }
    const asked = base.value
    await told(asked, async () => {
      const [held, state] = await Promise.all([
        ask({ base: asked, path: 'outline' }),
        ask({ base: asked, path: 'analysis' }),
      ])
      if (asked !== base.value) return
      outline.value = held
      lastSlug.value = wantedSlug
      await follow(asked, state)
    })
  }

  /** The estate looked at last if it is still there, else the first; null if there is none. */
  async function lastOrFirst(): Promise<string | null> {
    const estates = await $fetch<EstateInfo[]>('/api/estates')
    return (estates.find((one) => one.slug === lastSlug.value) ?? estates[0])?.slug ?? null
  }

  /** Polls the analysis until it ends, at growing intervals; then fetches its results. */
  async function follow(asked: string, first: Analysis): Promise<void> {
    analysis.value = first
    for (let wait = 100; analysis.value?.state === 'running'; wait = Math.min(wait * 1.5, 1_500)) {
      await new Promise((resolve) => setTimeout(resolve, wait))
      if (asked !== base.value) return
      const next = await ask({ base: asked, path: 'analysis' })
      if (asked !== base.value) return
      analysis.value = next
    }
    if (analysis.value?.state === 'done') await take(asked)
  }

  async function take(asked: string): Promise<void> {
    const rows: MarkedRow[] = []
    for (let total = 1; rows.length < total;) {
      const piece = await ask({
        base: asked,
        path: 'exits',
        query: { from: rows.length, count: ROWS_AT_ONCE },
      })
      if (asked !== base.value) return
      total = piece.total
      rows.push(...piece.rows)
      if (piece.rows.length === 0) break
      // The first rows can be read while the rest is on its way; it is arranged once, when all is
      // there.
      if (exits.value === null || rows.length >= total) exits.value = [...rows]
    }
    exits.value ??= []
    const found = await ask({ base: asked, path: 'expectations' })
    if (asked === base.value) expectations.value = found.expectations
  }

  /** Shows nothing any more: the estate is gone. */
  function forget(): void {
    slug.value = null
    outline.value = null
    analysis.value = null
    exits.value = null
    expectations.value = null
    lastSlug.value = ''
  }

  /** Stops the analysis, or begins it again after it failed or was stopped. */
  async function stop(): Promise<void> {
    const asked = base.value
    await told(asked, async () => {
      const state = await $fetch<Analysis>(`${asked}/analysis`, { method: 'DELETE' })
      if (asked === base.value) analysis.value = state
    })
  }
  async function analyseAgain(): Promise<void> {
    const asked = base.value
    await told(asked, async () =>
      follow(asked, await $fetch<Analysis>(`${asked}/analysis`, { method: 'POST', body: {} })),
    )
  }

  /** Fetches the counts again after a finding was accepted: accepted ones do not count. */
  async function countAgain(): Promise<void> {
    const asked = base.value
    const state = await ask({ base: asked, path: 'analysis' })
    if (asked === base.value) analysis.value = state
  }

  async function told(asked: string, work: () => Promise<void>): Promise<void> {
    try {
      await work()
    } catch (error) {
      if (asked === base.value) failure.value = failureText(error)
    }
  }

  return {
    slug,
    revision,
    outline,
    analysis,
    exits,
    expectations,
    failure,
    base,
    baseOf,
    fixedBase,
    isDone,
    show,
    lastOrFirst,
    forget,
    stop,
    analyseAgain,
    countAgain,
  }
})
