import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { defineStore } from 'pinia'

export type Theme = 'system' | 'light' | 'dark'

/** The person at the screen: the name that revisions are signed with, and the theme. */
export const useAccount = defineStore('account', () => {
  const name = useLocalStorage('salt-trail.name', '')
  const theme = useLocalStorage<Theme>('salt-trail.theme', 'system')
  const prefersDark = usePreferredDark()

  function applyTheme(): void {
    watchEffect(() => {
      const dark = theme.value === 'dark' || (theme.value === 'system' && prefersDark.value)
      document.documentElement.dataset.theme = dark ? 'dark' : 'light'
    })
  }
  return { name, theme, applyTheme }
})
