/** Pages that somebody sees who is not signed in. */
const OPEN = new Set(['/sign-in', '/join'])

/** Leads who is not signed in to where he can, and from there back to where he wanted to be. */
export default defineNuxtRouteMiddleware(async (to) => {
  const account = useAccount()
  if (OPEN.has(to.path)) return
  // A server that does not answer is told by the page itself.
  if (account.session === null) await account.look().catch(() => undefined)
  if (account.session === null || account.account !== null) return
  return { path: '/sign-in', query: to.fullPath === '/' ? {} : { to: to.fullPath } }
})
