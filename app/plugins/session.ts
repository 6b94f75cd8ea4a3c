/** Whatever is asked, a session that has ended is noticed, and what is on screen stays there. */
export default defineNuxtPlugin(() => {
  globalThis.$fetch = $fetch.create({
    onResponseError: ({ response }) => {
      if (response.status === 401) useAccount().end()
    },
  }) as typeof $fetch
})
