import type { ExpectationResult, ExitRow, Finding } from '@salt-trail/core'
import { defineStore } from 'pinia'
import type { EndChoice } from '~/questions/question-text'

export interface RevisionInfo {
  readonly number: number
  readonly createdAt: string
  readonly author: string
  readonly origin: string
  readonly note: string
}

export interface Outline {
  readonly slug: string
  readonly name: string
  readonly revision: RevisionInfo
  readonly head: number
  readonly counts: Record<string, number>
  readonly networks: readonly { id: string; title: string | null; ranges: string[]; behaviour: string; region: string | null }[]
  readonly subnets: readonly SubnetOutline[]
  readonly ends: readonly EndChoice[]
}

export interface SubnetOutline {
  readonly id: string
  readonly title: string | null
  readonly network: string
  readonly ranges: string[]
  readonly zone: string | null
  readonly region: string | null
  readonly role: string | null
  readonly table: string | null
  readonly ownTable: boolean
}

export interface Exits {
  readonly revision: number
  readonly milliseconds: number
  readonly rows: readonly ExitRow[]
}

export interface FindingsOfRevision {
  readonly revision: number
  readonly milliseconds: number
  readonly findings: readonly Finding[]
  readonly expectations: readonly Omit<ExpectationResult, 'trace'>[]
}

/** What went wrong with a request, in the server's own words where it has some. */
export function failureText(error: unknown): string {
  const failure = error as { data?: { data?: { message?: string }; message?: string }; statusCode?: number; message?: string }
  return (
    failure.data?.data?.message ??
    failure.data?.message ??
    (failure.statusCode === undefined ? 'The server does not answer. Is it running?' : (failure.message ?? 'The request failed.'))
  )
}

/** The estate and revision on screen, and what was computed of them. */
export const useEstate = defineStore('estate', () => {
  const slug = ref<string | null>(null)
  const revision = ref('head')
  const outline = shallowRef<Outline | null>(null)
  const exits = shallowRef<Exits | null>(null)
  const found = shallowRef<FindingsOfRevision | null>(null)
  /** Why there are no findings. */
  const notFound = ref<string | null>(null)
  const failure = ref<string | null>(null)

  const base = computed(() => `/api/estates/${slug.value}/${revision.value}`)

  /** Shows a revision. What is shown already is kept unless `again` asks for it anew. */
  async function show(wantedSlug: string, wantedRevision: string, again = false): Promise<void> {
    const same = slug.value === wantedSlug && revision.value === wantedRevision
    if (same && outline.value && !again) return
    slug.value = wantedSlug
    revision.value = wantedRevision
    failure.value = null
    if (!same) {
      outline.value = null
      exits.value = null
      found.value = null
      notFound.value = null
    }
    const asked = base.value
    try {
      const held = await $fetch<Outline>(`${asked}/outline`)
      if (asked !== base.value) return
      outline.value = held
      const computed = await $fetch<Exits>(`${asked}/exits`)
      if (asked === base.value) exits.value = computed
      await find(asked)
    } catch (error) {
      if (asked === base.value) failure.value = failureText(error)
    }
  }

  /** What is wrong is looked for once the ways are on screen; where it cannot be, the rest still stands. */
  async function find(asked: string): Promise<void> {
    try {
      const wrong = await $fetch<FindingsOfRevision>(`${asked}/findings`)
      if (asked === base.value) found.value = wrong
    } catch (error) {
      if (asked === base.value) notFound.value = failureText(error)
    }
  }

  return { slug, revision, outline, exits, found, notFound, failure, base, show }
})
