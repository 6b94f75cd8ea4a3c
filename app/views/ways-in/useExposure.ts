import { refDebounced } from '@vueuse/core'
import type { Answer } from '~/api/answers'
import { ask } from '~/api/request'
import { useGrowingAnswer } from '~/api/useGrowingAnswer'
import { usePortNames } from '~/questions/port-names'

export type ListedOpening = Answer<'/api/estates/{estate}/{revision}/exposure'>['openings'][number]
export type OpeningSort = 'port' | 'subnet' | 'address'

const AT_ONCE = 500

/** What the estate exposes, sorted and filtered; a service by its name means its port. */
export function useExposure(sort: () => OpeningSort, find: () => string) {
  const estate = useEstate()
  const names = usePortNames()
  const typed = refDebounced(computed(find), 200)
  const text = computed(() => typed.value.trim().toLowerCase())
  const port = computed(() => names.value?.portOf(text.value)?.port)
  const query = (from: number) => ({
    ...{ sort: sort(), text: text.value, from, count: AT_ONCE },
    ...(port.value === undefined ? {} : { port: port.value }),
  })
  const { answer, failure } = useGrowingAnswer<'exposure'>(
    () =>
      estate.fixedBase === null
        ? null
        : { base: estate.fixedBase, path: 'exposure', query: query(0) },
    ({ isDone }) => isDone,
  )
  const later = shallowRef<readonly ListedOpening[]>([])
  watch(answer, () => (later.value = []))
  const openings = computed(() => [...(answer.value?.openings ?? []), ...later.value])
  async function more(): Promise<void> {
    const next = await ask<'exposure'>({
      base: estate.fixedBase!,
      path: 'exposure',
      query: query(openings.value.length),
    })
    later.value = [...later.value, ...next.openings]
  }
  /** All of them, for a table that is taken along. */
  async function all(): Promise<readonly ListedOpening[]> {
    while (openings.value.length < (answer.value?.total ?? 0)) await more()
    return openings.value
  }
  return { answer, failure, openings, more, all }
}
