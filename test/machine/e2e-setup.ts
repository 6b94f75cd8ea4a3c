import { request, type FullConfig } from '@playwright/test'
import { SESSION } from '../../playwright.config'

/** Enters by one click, under the name that the journeys sign with, and keeps the session. */
export default async function setup({ projects }: FullConfig): Promise<void> {
  const { baseURL } = projects[0]!.use
  const context = await request.newContext({ baseURL: baseURL! })
  await context.post('/api/session/local', { data: {} })
  await context.put('/api/account', { data: { name: 'E. Tern' } })
  await context.storageState({ path: SESSION })
  await context.dispose()
}
