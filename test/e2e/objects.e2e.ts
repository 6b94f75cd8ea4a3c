import { expect, test } from '@playwright/test'
import { demoCopy, draftOf, withoutPath } from './draft-steps'

test.beforeEach(({ page }) => withoutPath(page))

test('an object has a page: what refers to it, editing it, what if it fails', async ({ page }) => {
  const slug = await demoCopy(page)
  await page.goto(`/${slug}/head/object?of=nats/nat-telemetry`)
  await expect(page.getByRole('heading', { level: 1 })).toContainText('nat-telemetry')
  await expect(page.getByText('routeTables/telemetry-private')).toBeVisible()
  await expect(page.getByText(/nat-telemetry sits in telemetry-edge-1/).first()).toBeVisible()
  await page.getByRole('button', { name: 'What if it fails' }).click()
  await expect(page.getByRole('region', { name: 'The open draft' })).toContainText('Outage')
  await page.goto(`/${slug}/head/object?of=nats/nat-telemetry`)
  await page.getByRole('button', { name: 'Edit' }).click()
  await expect(page).toHaveURL(/do=edit&object=nats\/nat-telemetry/)
})

test('an expectation begins where one looks, and a draft that breaks it gives its reason', async ({
  page,
}) => {
  const slug = await demoCopy(page)
  await page.goto(`/${slug}/head/trace?from=interface:booking-1&to=internet&over=tcp+443`)
  await page.getByRole('link', { name: 'this must stay so' }).click()
  await expect(page.getByLabel('from', { exact: true }).nth(1)).toHaveValue('interfaces/booking-1')
  await page.getByPlaceholder('cards-stay-home').fill('booking-goes-out')
  await page.getByRole('button', { name: 'Prove it' }).click()
  await expect(page.getByText('booking-goes-out holds')).toBeVisible()
  await page.getByRole('button', { name: 'Save as a new revision' }).click()
  await expect(page.getByText('2 hold')).toBeVisible({ timeout: 15_000 })
  await page.goto(
    `${await draftOf(page, slug, {
      change: {
        what: 'take the public address of booking-1',
        patch: [{ op: 'remove', path: '/interfaces/booking-1/publicAddress' }],
      },
    })}?do=save`,
  )
  await page.getByRole('button', { name: 'Save as a new revision' }).click()
  await expect(page.getByText('It breaks what the estate expects of itself')).toBeVisible({
    timeout: 15_000,
  })
  await page.getByPlaceholder('the reason stays with the revision').fill('it moves on Monday')
  await page.getByRole('button', { name: 'Save as a new revision' }).click()
  await expect(page).toHaveURL(new RegExp(`${slug}/3/findings`), { timeout: 20_000 })
  await page.goto(`/${slug}/3/revisions`)
  await expect(page.getByText('it moves on Monday')).toBeVisible()
})

test('an estate is renamed, and deleted after typing its name', async ({ page }) => {
  const slug = await demoCopy(page)
  await page.goto(`/${slug}/head/exits`)
  await expect(page.getByRole('grid')).toBeVisible()
  const menu = async (name: string) => {
    await page.getByRole('button', { name }).first().click()
    await page.getByRole('menuitem', { name: `Rename or delete ${name}` }).click()
  }
  await menu('Halite Ferries')
  await page.getByLabel('Its name; another one is a new revision').fill('Brine Ferries')
  await page.getByRole('button', { name: 'Rename it' }).click()
  await expect(page).toHaveURL(new RegExp(`/${slug}/head/revisions`))
  await menu('Brine Ferries')
  await page.getByLabel(/type its name/).fill('Brine Ferries')
  await page.getByRole('button', { name: 'Delete it for good' }).click()
  await expect(page).not.toHaveURL(new RegExp(slug))
  expect((await page.request.get(`/api/estates/${slug}/revisions`)).status()).toBe(404)
})

test('next hops are told by destination, and names in every view lead to objects', async ({
  page,
}) => {
  await page.goto('/halite-ferries/head/next-hops?subnet=crew-roster-1')
  const rows = page.getByRole('table').getByRole('row')
  await expect(rows.filter({ hasText: 'the internet' }).first()).toContainText('harbour-wall')
  await expect(rows.filter({ hasText: 'harbour-control, site' })).toContainText('harbour-circuit')
  await expect(rows.filter({ hasText: 'crew, its own network' }).first()).toBeVisible()
  const nobodys = page.getByRole('button', { name: 'Space nobody has' })
  const before = await rows.count()
  await nobodys.click()
  await expect(nobodys).toHaveAttribute('aria-expanded', 'true')
  expect(await rows.count()).toBeGreaterThan(before)
  await page.getByRole('button', { name: 'every range' }).click()
  await expect(page).toHaveURL(/list=by-range/)
  await expect(rows.filter({ hasText: '172.20.0.0/16' }).first()).toBeVisible()
  await page.getByRole('link', { name: 'harbour-wall' }).first().click()
  await expect(page).toHaveURL(/object\?of=firewalls(\/|%2F)harbour-wall/)
  await page.goto('/halite-ferries/head/ways-in?subnet=ticketing-web-1')
  await page.getByRole('link', { name: 'booking-group' }).first().click()
  await expect(page).toHaveURL(/object\?of=ruleSets(\/|%2F)booking-group/)
  await page.goto('/halite-ferries/head/report')
  await page.getByRole('article').getByRole('link', { name: 'nat-telemetry' }).first().click()
  await expect(page).toHaveURL(/object\?of=nats(\/|%2F)nat-telemetry/)
})
