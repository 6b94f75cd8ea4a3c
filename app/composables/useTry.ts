import type { Operation } from '@salt-trail/core'
import { failureText } from '~/api/failure-text'

/**
 * Tries a change in a draft, and leads there: in the draft that is open if that is made in what is
 * on screen, else in a new one.
 */
export function useTry() {
  const estate = useEstate()
  const router = useRouter()
  const draft = useDraft()
  const failure = ref('')

  /** The open draft, and the version of it that is on screen; null where a new one is needed. */
  function fitting(): { seen: number } | null {
    const { outline } = estate
    if (draft.draft === null || !outline) return null
    if (outline.draft) return outline.draft.id === draft.id ? { seen: outline.draft.version } : null
    return draft.draft.base === outline.revision.number ? { seen: draft.draft.first } : null
  }

  async function start(
    name: string,
    kind: 'change' | 'outage',
    change?: { what: string; patch: readonly Operation[] },
  ): Promise<boolean> {
    failure.value = ''
    try {
      const { id } = await $fetch<{ id: number }>(`/api/estates/${estate.slug}/drafts`, {
        method: 'POST',
        body: {
          ...{ name: name[0]!.toUpperCase() + name.slice(1), kind, change },
          base: estate.outline!.revision.number,
        },
      })
      draft.open(id)
      return true
    } catch (error) {
      failure.value = failureText(error)
      return false
    }
  }

  /** Leads to the open draft. */
  async function show(query: Record<string, string> = {}): Promise<void> {
    await router.push({ path: `/${estate.slug}/draft-${draft.id}/draft`, query })
  }

  /** Makes a change in a draft and shows it. */
  async function tryChange(
    name: string,
    what: string,
    patch: readonly Operation[],
    kind: 'change' | 'outage' = 'change',
  ): Promise<void> {
    const open = kind === 'outage' ? null : fitting()
    const isMade = open
      ? (await draft.change(what, patch, open.seen)) !== null
      : await start(name, kind, { what, patch })
    failure.value ||= isMade ? '' : draft.failure
    if (isMade) await show()
  }

  /** Opens an object for editing in a draft. */
  async function edit(object: string): Promise<void> {
    const open = fitting()
    if (open || (await start(`Edit of ${object}`, 'change'))) await show({ do: 'edit', object })
  }
  /** Opens a move with what is chosen for it. */
  async function move(query: Record<string, string>): Promise<void> {
    if (fitting() || (await start('A draft', 'change'))) await show({ do: 'move', ...query })
  }
  return { failure, start, show, tryChange, edit, move }
}
