import { expect, test } from '@playwright/test'

/** What the estate exposes as a whole, and which networks can talk. */
const HEAD = '/halite-ferries/head'

test.beforeEach(async ({ page }) => {
  await page.addInitScript(() => localStorage.setItem('salt-trail.path-left', 'true'))
})

test('ways in opens on the whole estate: administration first, by port, subnet and address', async ({
  page,
}) => {
  await page.goto(`${HEAD}/exits`)
  await expect(page.getByRole('grid')).toBeVisible()
  await page.keyboard.press('4')
  const exposed = page.getByRole('region', { name: 'What is reached from outside' })
  const groups = exposed.getByRole('rowheader').or(exposed.locator('tbody th'))
  await expect(groups.first()).toContainText('tcp 22')
  await expect(groups.first()).toContainText('ssh, remote administration')
  await expect(exposed).toContainText('anybody on the internet')
  await expect(page.getByRole('main')).toContainText('8 ways in')
  await page.getByLabel('find', { exact: true }).fill('ssh')
  await expect(page.getByRole('main')).toContainText('1 way in')
  await page.getByLabel('find', { exact: true }).fill('kiosk')
  await expect(exposed.locator('tbody')).toContainText('kiosk-1')
  await expect(exposed.locator('tbody')).not.toContainText('booking-1')
  await page.getByLabel('find', { exact: true }).fill('')
  await page.getByLabel('Sorted by').selectOption('address')
  await expect(groups.first()).toHaveText('10.10.4.10')
  await page.getByLabel('Sorted by').selectOption('subnet')
  await expect(groups.first()).toContainText('hub-jump')
})

test('a host’s row opens what is behind it, and leads to its trace; the table is taken along', async ({
  page,
}) => {
  await page.goto(`${HEAD}/ways-in?find=22`)
  await page.getByRole('button', { name: 'behind it' }).click()
  await expect(page.getByText('Whoever is on jump-1 reaches')).toContainText('registry-1')
  await page.getByRole('button', { name: 'Copy or save table' }).click()
  const saved = page.waitForEvent('download')
  await page.getByRole('menuitem', { name: 'save as CSV' }).click()
  expect((await saved).suggestedFilename()).toBe('reached-from-outside.csv')
  await page.getByRole('button', { name: 'trace', exact: true }).click()
  await expect(page).toHaveURL(/trace\?from=172/)
})

test('which networks can talk on what, each cell with a packet and an expectation', async ({
  page,
}) => {
  await page.goto(`${HEAD}/ways-in`)
  await page.getByRole('link', { name: 'among networks' }).click()
  await expect(page.getByRole('button', { name: 'crew to hub: tcp 22' })).toBeVisible()
  await page.getByRole('button', { name: 'hub to crew: –' }).click()
  const between = page.getByRole('complementary', { name: 'Between two networks' })
  await expect(between).toContainText('No packet gets from the one to the other')
  await page.getByRole('button', { name: 'crew to telemetry: tcp 8443' }).click()
  await expect(between).toContainText('crew-telemetry')
  await between.getByRole('link', { name: 'they must never reach each other' }).click()
  await expect(page).toHaveURL(/expectations\?write=1/)
  await expect(
    page.getByText('from: { network: crew }').or(page.getByLabel('from').nth(1)),
  ).toBeVisible()
})

test('the ways into one subnet are one step away', async ({ page }) => {
  await page.goto(`${HEAD}/next-hops?subnet=ticketing-web-1`)
  await expect(page.getByText('10.40.1.0/24').first()).toBeVisible()
  await page.keyboard.press('4')
  await page.getByRole('link', { name: 'into one subnet' }).click()
  await expect(page).toHaveURL(/subnet=ticketing-web-1/)
  await expect(page.getByText('rules that let it in')).toBeVisible()
})
