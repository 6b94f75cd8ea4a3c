import { useDebounceFn } from '@vueuse/core'
import {
  between,
  pathOfRef,
  pointer,
  readObject,
  splitRef,
  writeObject,
  type Operation,
} from '@salt-trail/core'
import { useEditedObject } from '~/views/draft/useEditedObject'

/**
 * One object of the draft as it is being edited, as a text that a form and a text field share. What
 * is typed is kept by the server at once, so that a reload, a crash or a second person loses
 * nothing; it becomes a change when it is kept.
 */
export function useEditing(object: () => string) {
  const estate = useEstate()
  const draft = useDraft()
  const foresight = useDraftForesight()
  const chosen = computed(object)
  const { page, isNew } = useEditedObject(object)
  const text = ref('')
  /** What the text was made from: it is changed against this, whatever others do meanwhile. */
  const from = shallowRef<{ version: number; value: unknown; text: string } | null>(null)
  const isTouched = computed(() => from.value !== null && text.value !== from.value.text)

  /** What is to be sent next; null while the server has all of it. */
  let unsent: { readonly object: string; readonly typed: string | null } | null = null
  function send(): void {
    const next = unsent
    unsent = null
    if (next) void draft.keepText(next.object, next.typed).catch(() => (unsent ??= next))
  }
  const sendSoon = useDebounceFn(send, 400)
  watch(chosen, () => {
    send()
    from.value = null
    text.value = ''
    foresight.pending = []
  })

  /** The text that became a change last; the server forgets it a moment later. */
  let taken: string | null = null
  function begin(value: unknown, written: string): void {
    from.value = { version: estate.outline?.draft?.version ?? 0, value, text: written }
    const kept = draft.draft?.texts.find(
      (one) => one.object === chosen.value && one.author === draft.author,
    )
    text.value = kept === undefined || kept.text === taken ? written : kept.text
  }
  watch(
    [page, isNew, chosen],
    () => {
      // What is being typed stays, whatever others do to the object meanwhile.
      if (isTouched.value) return
      if (page.value !== null) begin(page.value.value, page.value.text)
      else if (isNew.value) begin(undefined, '')
    },
    { immediate: true },
  )
  const read = computed(() => readObject(splitRef(chosen.value)[0], text.value))
  /** The change that the text makes; none while it is faulty or says nothing new. */
  const operations = computed((): readonly Operation[] => {
    const { value } = read.value
    if (from.value === null || !isTouched.value || value === undefined) return []
    const path = pathOfRef(chosen.value)
    return from.value.value === undefined
      ? [{ op: 'add', path: pointer(...path), value }]
      : between(from.value.value, value, path)
  })
  watch(operations, (now) => (foresight.pending = now))
  onScopeDispose(() => (foresight.pending = []))

  watch(text, (now) => {
    if (!from.value) return
    unsent = { object: chosen.value, typed: isTouched.value ? now : null }
    void sendSoon()
  })
  // Whoever leaves in the middle of a word leaves it with the server.
  onScopeDispose(send)

  /** Takes what is typed as a change of the draft. */
  async function keep(): Promise<boolean> {
    if (operations.value.length === 0 || from.value === null) return false
    const what = from.value.value === undefined ? `add ${chosen.value}` : `edit ${chosen.value}`
    taken = text.value
    unsent = null
    const edited = await draft.change(what, operations.value, from.value.version)
    if (edited === null) {
      taken = null
      return false
    }
    await draft.keepText(chosen.value, null)
    from.value = { version: edited.version, value: read.value.value, text: text.value }
    foresight.pending = []
    return true
  }
  async function forget(): Promise<void> {
    text.value = from.value?.text ?? ''
    await nextTick()
    unsent = null
    await draft.keepText(chosen.value, null)
  }
  const remove = () =>
    draft.change(`remove ${chosen.value}`, [
      { op: 'remove', path: pointer(...pathOfRef(chosen.value)) },
    ])
  const setValue = (value: unknown): void => void (text.value = writeObject(value))

  return {
    ...{ page, isNew, text, isTouched, read, operations },
    ...{ keep, forget, remove, setValue },
  }
}
