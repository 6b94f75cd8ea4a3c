import type { ColumnFindings, ExitWay } from '@salt-trail/core'
import type { OpenColumn } from '~/views/exits/columns'
import {
  cellOf,
  COLUMNS,
  foundOfMember,
  type Cell,
  type ColumnKey,
  type Direction,
} from '~/views/exits/cells'
import { ask } from '~/api/request'
import { failureText } from '~/api/failure-text'

const ROWS_AT_ONCE = 60

/** What a request brings for some rows: the ways of one cell after another. */
type Fetch = (
  subnets: readonly string[],
) => Promise<Iterable<readonly [subnet: string, cell: string, ways: readonly ExitWay[]]>>

/**
 * The cells of the matrix that are computed when they come into sight: the members of open columns,
 * and all of it turned to entering. They are kept for as long as the revision is on screen.
 */
export function useFetchedCells() {
  const estate = useEstate()
  const ways = shallowReactive(new Map<string, readonly ExitWay[]>())
  const asked = new Set<string>()
  const failure = ref<string | null>(null)
  watch(
    () => estate.base,
    () => {
      ways.clear()
      asked.clear()
    },
  )

  /** Fetches what was not asked for yet, once. */
  async function fetchOnce(about: string, subnets: readonly string[], fetch: Fetch): Promise<void> {
    const wanted = subnets
      .filter((subnet) => !asked.has(`${about} ${subnet}`))
      .slice(0, ROWS_AT_ONCE)
    if (wanted.length === 0) return
    for (const subnet of wanted) asked.add(`${about} ${subnet}`)
    const base = estate.base
    try {
      const found = await fetch(wanted)
      if (base !== estate.base) return
      failure.value = null
      for (const [subnet, cell, list] of found) ways.set(`${cell} of ${subnet}`, list)
    } catch (error) {
      failure.value = failureText(error)
      for (const subnet of wanted) asked.delete(`${about} ${subnet}`)
    }
  }

  const fetchEntering = (subnets: readonly string[]): Promise<void> =>
    fetchOnce('entering', subnets, async (wanted) => {
      const { rows } = await ask({
        base: estate.base,
        path: 'entries',
        query: { subnets: wanted.join(',') },
      })
      return rows.flatMap((row) =>
        COLUMNS.map(({ key }) => [row.subnet, `entering ${key}`, row[key]] as const),
      )
    })

  const fetchMembers = (
    direction: Direction,
    column: OpenColumn,
    members: readonly string[],
    subnets: readonly string[],
  ): Promise<void> =>
    fetchOnce(`${direction} ${column} ${members.join()}`, subnets, async (wanted) => {
      const query = {
        column,
        turned: direction,
        members: members.join(','),
        subnets: wanted.join(','),
      }
      const { rows } = await ask({ base: estate.base, path: 'members', query })
      return rows.flatMap((row) =>
        row.cells.map(
          (list, at) => [row.subnet, `${direction} ${column} ${members[at]}`, list] as const,
        ),
      )
    })

  /** A cell with its marks; null while it is not there yet. */
  function cellAt(
    subnet: string,
    direction: Direction,
    column: ColumnKey,
    member: string | null,
    found: ColumnFindings | undefined,
  ): Cell | null {
    const list = ways.get(
      `${direction} ${column}${member === null ? '' : ` ${member}`} of ${subnet}`,
    )
    if (!list) return null
    const marks = found?.[column] ?? []
    return cellOf(list, member === null ? marks : foundOfMember(marks, member, list))
  }
  return { fetchEntering, fetchMembers, cellAt, failure }
}
