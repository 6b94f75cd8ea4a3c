import { refDebounced } from '@vueuse/core'
import type { RouteLocationRaw } from 'vue-router'
import { useAnswer } from '~/api/useAnswer'

/** Somewhere that a text leads to: an object, a finding, a view. */
export interface FoundPlace {
  readonly key: string
  readonly name: string
  readonly about: string
  /** Where it is; or what is done to show it, which says why it cannot be. */
  readonly to: RouteLocationRaw | (() => Promise<string>)
}

const LEAST_LETTERS = 2
const MOST_FINDINGS = 4

/**
 * What a text finds besides ends of questions: views, zones and what goes down with them, objects,
 * who has an address, findings.
 */
export function useSearch(text: () => string) {
  const estate = useEstate()
  const { views, linkTo } = useViews()
  const word = computed(() => text().trim())
  const settled = refDebounced(word, 120)
  const isAsked = computed(
    () => settled.value.length >= LEAST_LETTERS && !/[>\s]/.test(settled.value),
  )
  const base = computed(() => (isAsked.value ? estate.fixedBase : null))
  const { answer: objects } = useAnswer<'search'>(() =>
    base.value === null
      ? null
      : { base: base.value, path: 'search', query: { text: settled.value, most: 8 } },
  )
  const { answer: findings } = useAnswer<'findings'>(() =>
    base.value === null
      ? null
      : {
          base: base.value,
          path: 'findings',
          query: { text: settled.value, count: MOST_FINDINGS },
        },
  )
  const viewsFound = computed((): FoundPlace[] =>
    word.value.length < LEAST_LETTERS
      ? []
      : views
          .filter(({ title }) => title.toLowerCase().startsWith(word.value.toLowerCase()))
          .map((view) => ({
            key: `view ${view.name}`,
            name: view.title,
            about: `view, key ${view.key}`,
            to: linkTo(view),
          })),
  )
  const { move, failure } = useTry()
  const zonesFound = computed((): FoundPlace[] => {
    if (word.value.length < LEAST_LETTERS) return []
    const zones = new Set((estate.outline?.subnets ?? []).flatMap(({ zone }) => zone ?? []))
    return [...zones]
      .filter((zone) => `zone ${zone}`.includes(word.value.toLowerCase()))
      .map((zone) => ({
        key: `zone ${zone}`,
        name: zone,
        about: 'zone: what goes down with it, in a draft',
        to: () => move({ move: 'fail', failing: `zone:${zone}` }).then(() => failure.value),
      }))
  })
  const path = (view: string): string => `/${estate.slug}/${estate.revision}/${view}`
  return computed((): FoundPlace[] => [
    ...viewsFound.value,
    ...zonesFound.value,
    ...(objects.value?.objects ?? []).map(({ ref, says }) => ({
      key: `object ${ref}`,
      name: ref.slice(ref.indexOf('/') + 1),
      about: says,
      to: { path: path('object'), query: { of: ref } },
    })),
    ...(findings.value?.findings ?? []).map(({ fingerprint, code, sentence }) => ({
      key: `finding ${fingerprint}`,
      name: code,
      about: sentence,
      to: { path: path('findings'), query: { finding: fingerprint } },
    })),
  ])
}
