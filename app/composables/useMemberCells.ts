import { failureText } from '~/stores/estate'
import type { ExitWay } from '@salt-trail/core'
import { cellOf, type Cell } from '~/exits/cells'
import type { OpenColumn } from '~/exits/arrange'

/** The cells of open columns, fetched for the rows in sight and kept for as long as the revision is on screen. */
export function useMemberCells() {
  const estate = useEstate()
  const cells = shallowReactive(new Map<string, Cell>())
  const asked = new Set<string>()
  const failure = ref<string | null>(null)
  const keyOf = (column: string, subnet: string, member: string): string => `${column} ${subnet} ${member}`
  watch(
    () => estate.base,
    () => {
      cells.clear()
      asked.clear()
    },
  )

  async function fetchFor(column: OpenColumn, subnets: readonly string[]): Promise<void> {
    const wanted = subnets.filter((subnet) => !asked.has(`${column} ${subnet}`)).slice(0, 100)
    if (wanted.length === 0) return
    for (const subnet of wanted) asked.add(`${column} ${subnet}`)
    const base = estate.base
    try {
      const { members, rows } = await $fetch<{ members: string[]; rows: { subnet: string; cells: ExitWay[][] }[] }>(`${base}/members`, {
        query: { column, subnets: wanted.join(',') },
      })
      if (base !== estate.base) return
      failure.value = null
      for (const row of rows) row.cells.forEach((ways, at) => cells.set(keyOf(column, row.subnet, members[at]!), cellOf(ways)))
    } catch (error) {
      failure.value = failureText(error)
      for (const subnet of wanted) asked.delete(`${column} ${subnet}`)
    }
  }
  const cellAt = (column: string, subnet: string, member: string): Cell | null => cells.get(keyOf(column, subnet, member)) ?? null
  return { cellAt, fetchFor, failure }
}
