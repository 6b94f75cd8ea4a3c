import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'

const VIEWS = {
  exits: '/halite-ferries/head/exits',
  'opened columns': '/halite-ferries/head/exits?open=services,sites&by=zone',
  'a lost trace': '/halite-ferries/head/trace?from=interface:seat-plan-2&to=internet&over=tcp+443',
  'a trace beside another':
    '/halite-ferries/head/trace?from=interface:banner-1&to=internet&over=tcp+443&beside=booking-1',
  'a working trace':
    '/halite-ferries/head/trace?from=interface:seat-plan-1&to=internet&over=tcp+443',
  'an empty trace': '/halite-ferries/head/trace',
  findings: '/halite-ferries/head/findings',
  'next hops': '/halite-ferries/head/next-hops?subnet=crew-roster-1',
  'two subnets’ next hops': '/halite-ferries/head/next-hops?subnet=crew-roster-1&with=crew-desk-1',
  'ways in': '/halite-ferries/head/ways-in?subnet=ticketing-web-1',
  expectations: '/halite-ferries/head/expectations',
  'the matrix turned, columns open':
    '/halite-ferries/head/exits?turned=entering&open=sites,otherNetworks',
  'next hops of two revisions':
    '/halite-ferries/3/next-hops?subnet=crew-roster-1&with=crew-roster-1&of=2',
  'the map':
    '/halite-ferries/head/map?from=interface:roster-1&to=interface:tide-gauge-1&over=tcp+8443&at=networks/crew',
  'addresses that are seen': '/halite-ferries/head/addresses?to=party:fuel-broker',
  'address space': '/halite-ferries/head/addresses?half=space&carve=10.60.0.0/16&into=4',
  revisions: '/halite-ferries/head/revisions',
  'the report': '/halite-ferries/head/report',
  'the reference': '/reference?of=routeTables',
  'codes of findings': '/reference?of=findings',
  'bring in': '/bring-in?into=halite-ferries',
  'an error': '/nowhere/head/exits',
}

for (const colorScheme of ['light', 'dark'] as const) {
  for (const [name, path] of Object.entries(VIEWS)) {
    test(`axe finds nothing on ${name}, ${colorScheme}`, async ({ browser }) => {
      const context = await browser.newContext({
        colorScheme,
        viewport: { width: 1280, height: 800 },
      })
      const page = await context.newPage()
      await page.goto(path)
      await expect(page.getByRole('heading', { level: 1 }).first()).toBeAttached()
      // The themes differ in colours only, so the second is asked for contrast alone.
      const axe = new AxeBuilder({ page })
      const { violations } = await (
        colorScheme === 'light' ? axe : axe.withRules(['color-contrast'])
      ).analyze()
      expect(
        violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`),
      ).toEqual([])
      await context.close()
    })
  }
}

test('axe finds nothing while files are mended', async ({ page }) => {
  await page.goto('/bring-in')
  await page.getByRole('button', { name: 'Begin with an empty one' }).click()
  await page.getByRole('textbox', { name: /Text of/ }).fill('format: salt-trail/1\nnmae: x\n')
  await expect(page.getByText('did you mean "name"?')).toBeVisible()
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([])
})

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
  await expect(page).toHaveURL(/exits$/)
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
  await expect(page.getByRole('heading', { name: 'Critical' })).toBeVisible()
})

test('dark and light can be chosen, and stay', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits')
  await page.getByRole('button', { name: 'Your name' }).click()
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
