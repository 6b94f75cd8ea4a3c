import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { defineStore } from 'pinia'
import type { Session } from '~/api/answers'

export type Theme = 'system' | 'light' | 'dark'

/** Who is signed in at the screen, how one may enter, and the theme. */
export const useAccount = defineStore('account', () => {
  const session = shallowRef<Session | null>(null)
  /** Whether a session ended while something is on screen, which stays there. */
  const hasEnded = ref(false)
  const theme = useLocalStorage<Theme>('salt-trail.theme', 'system')
  const prefersDark = usePreferredDark()

  const account = computed(() => session.value?.account ?? null)
  /** What revisions are signed with. */
  const name = computed(() => account.value?.name ?? '')

  async function look(): Promise<void> {
    session.value = await $fetch<Session>('/api/session')
  }
  function enter(entered: Session): void {
    const before = account.value?.id
    session.value = entered
    // What is on screen was somebody else's, who may see more.
    if (before !== undefined && before !== entered.account?.id) window.location.reload()
    hasEnded.value = false
    for (const goOn of waiting.splice(0)) goOn()
  }
  /** The server knows nobody any more: resolves once somebody has signed in again. */
  const waiting: (() => void)[] = []
  function enteredAgain(): Promise<void> {
    hasEnded.value = true
    return new Promise((resolve) => waiting.push(resolve))
  }
  async function leave(): Promise<void> {
    session.value = await $fetch<Session>('/api/session', { method: 'DELETE' })
  }

  function applyTheme(): void {
    watchEffect(() => {
      const dark = theme.value === 'dark' || (theme.value === 'system' && prefersDark.value)
      document.documentElement.dataset.theme = dark ? 'dark' : 'light'
    })
  }
  return { session, account, name, hasEnded, theme, look, enter, enteredAgain, leave, applyTheme }
})
