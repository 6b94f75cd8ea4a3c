import { PiniaColada } from '@pinia/colada'

/**
 * Answers of the server are cached for as long as something shows them and five minutes longer.
 * Revisions never change, so an answer is not stale by itself.
 */
export default defineNuxtPlugin(({ vueApp }) => {
  vueApp.use(PiniaColada, {
    queryOptions: {
      staleTime: Infinity,
      gcTime: 5 * 60_000,
      refetchOnWindowFocus: false,
      refetchOnReconnect: false,
    },
  })
})
