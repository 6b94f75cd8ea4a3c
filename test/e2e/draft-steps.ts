import { readdirSync, readFileSync } from 'node:fs'
import { expect, type Page } from '@playwright/test'

/** A copy of the demo, so that what is saved in it is nobody else's. */
export async function demoCopy(page: Page): Promise<string> {
  const files = readdirSync('demo')
    .filter((name) => name.endsWith('.yaml'))
    .map((name) => ({ name, text: readFileSync(`demo/${name}`, 'utf8') }))
  const answer = await page.request.post('/api/estates', { data: { files } })
  return ((await answer.json()) as { slug: string }).slug
}

/** Starts a draft, and gives its path on screen. */
export async function draftOf(page: Page, slug: string, more: object = {}): Promise<string> {
  const answer = await page.request.post(`/api/estates/${slug}/drafts`, {
    data: { name: 'Tried out', ...more },
  })
  expect(answer.status()).toBe(201)
  return `/${slug}/draft-${((await answer.json()) as { id: number }).id}/draft`
}

/** Leaves the path through the demo out of sight. */
export const withoutPath = (page: Page) =>
  page.addInitScript(`localStorage.setItem('salt-trail.path-left', 'true')`)

/** Where what follows from the open draft is told. */
export const follows = (page: Page) => page.getByLabel('What follows from the draft')

/** Waits until all of it is computed. */
export const computed = (page: Page) =>
  expect(follows(page).getByText('Computed in')).toBeVisible({ timeout: 15_000 })
