import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'
import { VIEWS } from './views'

test('without any estate the way leads to bringing one in', async ({ page }) => {
  await page.route('**/api/estates', (route) => route.fulfill({ json: [] }))
  await page.goto('/')
  await expect(page).toHaveURL(/bring-in/)
  await expect(page.getByText('Drop estate files here')).toBeVisible()
})

test('an estate that is not there, and a server that does not answer', async ({ page }) => {
  await page.goto('/nowhere/head/exits')
  await expect(
    page.getByRole('alert').filter({ hasText: 'there is no estate "nowhere"' }),
  ).toBeVisible()
  await page.route('**/api/**', (route) => route.abort())
  await page.goto('/')
  await expect(page.getByRole('alert')).toContainText('The server does not answer')
  await page.unroute('**/api/**')
  await page.getByRole('button', { name: 'Try again' }).click()
  await expect(page).toHaveURL(/exits(\?|$)/)
})

test('while the analysis runs the view says how far it is, and what was found comes by itself', async ({
  page,
}) => {
  let asked = 0
  await page.route('**/head/analysis', (route) =>
    ++asked < 4
      ? route.fulfill({
          json: {
            revision: 1,
            state: 'running',
            progress: { about: 'answers', done: asked, of: 4 },
          },
        })
      : route.continue(),
  )
  await page.goto('/halite-ferries/head/exits')
  await expect(page.getByRole('main').getByRole('status')).toContainText('Analysing: answers')
  await expect(page.getByRole('contentinfo').getByRole('button', { name: 'stop' })).toBeVisible()
  await expect(page.getByRole('grid')).toBeVisible()
  await expect(page.getByRole('contentinfo')).toContainText('analysed revision 3')
})

test('an analysis that was stopped says why, and is begun again from where it is missed', async ({
  page,
}) => {
  await page.route('**/head/analysis', (route) =>
    route.request().method() === 'GET'
      ? route.fulfill({
          json: { revision: 1, state: 'stopped', message: 'somebody stopped this analysis' },
        })
      : route.continue(),
  )
  await page.goto('/halite-ferries/head/findings')
  const alert = page.getByRole('alert').filter({ hasText: 'This revision is not analysed' })
  await expect(alert).toContainText('somebody stopped this analysis')
  const { violations } = await new AxeBuilder({ page }).analyze()
  expect(violations).toEqual([])
  await page.unroute('**/head/analysis')
  await alert.getByRole('button', { name: 'Analyse again' }).click()
  await expect(page.getByRole('heading', { name: 'Root causes' })).toBeVisible()
})

test('dark and light can be chosen, and stay', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits')
  await page.getByRole('button', { name: 'E. Tern' }).click()
  await page.getByRole('radio', { name: 'dark' }).click()
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark')
  await page.reload()
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark')
})

test('nothing on the console but silence', async ({ page }) => {
  const said: string[] = []
  page.on(
    'console',
    (message) => ['error', 'warning'].includes(message.type()) && said.push(message.text()),
  )
  page.on('pageerror', (error) => said.push(error.message))
  for (const path of Object.values(VIEWS).slice(0, 5)) {
    await page.goto(path)
    await page.waitForLoadState('networkidle')
  }
  expect(said).toEqual([])
})
