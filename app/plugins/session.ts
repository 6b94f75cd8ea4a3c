/**
 * Whatever is asked waits where the session has ended, and is asked again once somebody has signed
 * in over what is on screen, which stays there.
 */
export default defineNuxtPlugin(() => {
  const account = useAccount()
  const patiently =
    <A extends unknown[], R>(send: (...asked: A) => Promise<R>) =>
    async (...asked: A): Promise<R> => {
      for (;;) {
        try {
          return await send(...asked)
        } catch (error) {
          const isOut = (error as { statusCode?: number }).statusCode === 401
          if (!isOut || account.account === null) throw error
          await account.enteredAgain()
        }
      }
    }
  const { raw } = $fetch
  globalThis.$fetch = Object.assign(patiently($fetch), $fetch, {
    raw: patiently(raw),
  }) as typeof $fetch
})
