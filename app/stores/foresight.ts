import { defineStore } from 'pinia'
import type { Operation } from '@salt-trail/core'
import { MOST_SUBNETS_FORESEEN } from '~/consequences/limits'
import { useForesight } from '~/consequences/useForesight'

/**
 * What the open draft brings about against its base, found again after each change and while an
 * object is edited. Kept while other views are looked at, since the base is read but once.
 */
export const useDraftForesight = defineStore('draft-foresight', () => {
  const estate = useEstate()
  const draft = useDraft()
  const foresight = useForesight()
  /** What is being edited and is no change yet, made in the draft as it stands. */
  const pending = shallowRef<readonly Operation[]>([])
  const wanters = ref(0)
  const isWanted = computed(() => wanters.value > 0)

  /** Keeps it up to date as long as whoever calls this is on screen, and says so. */
  function wantWhile(wants: () => boolean): void {
    let counted = 0
    const count = (now: boolean): void => {
      wanters.value += Number(now) - counted
      counted = Number(now)
    }
    watch(wants, count, { immediate: true })
    onScopeDispose(() => count(false))
  }

  /** Who computes it; null until the size of the estate is known. */
  const by = computed((): 'browser' | 'server' | null => {
    if (!estate.outline) return null
    return estate.outline.subnets.length > MOST_SUBNETS_FORESEEN ? 'server' : 'browser'
  })
  watch(
    [
      isWanted,
      by,
      () => draft.draft?.version,
      () => draft.draft?.base,
      () => JSON.stringify(pending.value),
    ],
    () => {
      const open = draft.draft
      if (!isWanted.value || open === null || estate.slug === null || by.value === null) return
      if (!open.baseIsThere) return
      const change = [...(open.patch as readonly Operation[]), ...pending.value]
      if (by.value === 'server')
        void foresight.foreseeOnServer(`${draft.path}/foresight`, pending.value)
      else void foresight.foresee(estate.slug, open.base, { change })
    },
    { immediate: true },
  )
  watch(
    () => draft.id,
    () => {
      pending.value = []
      foresight.hide()
    },
  )
  return { ...foresight, pending, wantWhile }
})
