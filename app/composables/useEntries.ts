import type { ExitRow } from '@salt-trail/core'
import { failureText } from '~/stores/estate'
import { cellOf, COLUMNS, type Cell } from '~/exits/cells'

/** By what traffic enters, fetched for the rows in sight and kept for as long as the revision is on screen. */
export function useEntries() {
  const estate = useEstate()
  const cells = shallowReactive(new Map<string, Cell>())
  const asked = new Set<string>()
  const failure = ref<string | null>(null)
  watch(
    () => estate.base,
    () => {
      cells.clear()
      asked.clear()
    },
  )

  async function fetchFor(subnets: readonly string[]): Promise<void> {
    const wanted = subnets.filter((subnet) => !asked.has(subnet)).slice(0, 60)
    if (wanted.length === 0) return
    for (const subnet of wanted) asked.add(subnet)
    const base = estate.base
    try {
      const { rows } = await $fetch<{ rows: ExitRow[] }>(`${base}/entries`, { query: { subnets: wanted.join(',') } })
      if (base !== estate.base) return
      failure.value = null
      for (const row of rows) for (const { key } of COLUMNS) cells.set(`${row.subnet} ${key}`, cellOf(row[key]))
    } catch (error) {
      failure.value = failureText(error)
      for (const subnet of wanted) asked.delete(subnet)
    }
  }
  const cellAt = (subnet: string, column: string): Cell | null => cells.get(`${subnet} ${column}`) ?? null
  return { cellAt, fetchFor, failure }
}
