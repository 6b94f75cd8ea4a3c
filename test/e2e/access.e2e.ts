import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'

const PASSWORD = 'a long one for tests'
const SIGNED_OUT = { cookies: [], origins: [] }

/** Invites somebody on screen, and takes the link in a browser of its own. */
async function invited(page: Page, other: Page, login: string, name: string): Promise<void> {
  await page.goto('/account?show=people')
  await page.getByLabel('Login, such as an e-mail address').fill(login)
  await page.getByLabel('Name', { exact: true }).fill(name)
  await page.getByRole('button', { name: 'Invite' }).click()
  const link = await page
    .getByRole('status')
    .filter({ hasText: login })
    .locator('.mono')
    .innerText()
  await other.goto(link)
  await expect(other.getByLabel('Login')).toHaveValue(login)
  // The secret does not stay in the address, where a screen or a history would show it.
  expect(new URL(other.url()).hash).toBe('')
  await other.getByLabel(/^Password/).fill(PASSWORD)
  await other.getByRole('button', { name: 'Set the password and enter' }).click()
}

test('somebody is invited, has a role, loses it, signs out and in again', async ({
  page,
  browser,
}) => {
  const context = await browser.newContext({ storageState: SIGNED_OUT })
  const other = await context.newPage()
  await other.goto('/halite-ferries/head/findings')
  await expect(other).toHaveURL(/\/sign-in\?to=/)
  await invited(page, other, 'gull@example.org', 'G. Ull')

  // Without a role there is nothing to see but what he brings in himself.
  await expect(other).toHaveURL(/\/bring-in/)
  await page.goto('/halite-ferries/head/exits')
  await page.getByRole('button', { name: 'E. Tern' }).click()
  await page.getByRole('link', { name: 'account and access' }).click()
  await page.getByRole('button', { name: 'People of Halite Ferries' }).click()
  await page.getByLabel('Login of somebody who has an account').fill('gull@example.org')
  await page.getByRole('button', { name: 'Give the role' }).click()
  await expect(page.getByRole('row', { name: /gull@example.org/ })).toContainText('G. Ull')

  await other.goto('/halite-ferries/head/findings?find=idle-gateway')
  const finding = other.getByRole('region', { name: 'Finding idle-gateway' })
  await finding.getByRole('button', { name: 'live with it, and say why' }).click()
  await finding.getByLabel('why this is lived with').fill('I only read here.')
  await finding.getByRole('button', { name: 'Accept' }).click()
  await expect(finding.getByRole('alert')).toContainText('has to be an editor of the estate')

  await page
    .getByRole('row', { name: /gull/ })
    .getByRole('button', { name: 'take it away' })
    .click()
  await expect(page.getByRole('row', { name: /gull/ })).toHaveCount(0)
  await other.goto('/halite-ferries/head/findings')
  await expect(other.getByText('there is no estate "halite-ferries"').first()).toBeVisible()

  await other.goto('/account')
  await other.getByRole('button', { name: 'G. Ull' }).click()
  await other.getByRole('button', { name: 'sign out' }).click()
  await other.getByLabel('Login').fill('gull@example.org')
  await other.getByLabel('Password').fill('not this one')
  await other.getByRole('button', { name: 'Sign in' }).click()
  await expect(other.getByRole('alert')).toContainText('no account with this login and this')
  await other.getByLabel('Password').fill(PASSWORD)
  await other.getByRole('button', { name: 'Sign in' }).click()
  await expect(other).toHaveURL(/\/bring-in/)

  // All of it is on record.
  await page.getByRole('button', { name: 'Record of changes' }).click()
  await page.getByLabel('Who, what, estate or request holds').fill('gull@example.org')
  await expect(page.getByText('gull@example.org has no role any more')).toBeVisible()
  await expect(page.getByText('signed in with a password')).toBeVisible()
  await context.close()
})

test('a session that ends is begun again over what is on screen', async ({ page, browser }) => {
  const context = await browser.newContext({ storageState: SIGNED_OUT })
  const other = await context.newPage()
  await invited(page, other, 'heron', 'H. Eron')
  await expect(other).toHaveURL(/\/bring-in/)
  await other.getByRole('button', { name: 'Begin with an empty one' }).click()
  const text = other.getByRole('textbox', { name: /Text of/ })
  await text.fill('format: salt-trail/1\nname: Half typed\n')
  const [cookie] = await context.cookies()
  await context.clearCookies()
  await text.pressSequentially('# more')
  const dialog = other.getByRole('dialog', { name: 'Your session has ended' })
  await expect(dialog.getByLabel('Login')).toBeVisible()
  expect(cookie!.httpOnly).toBe(true)
  await dialog.getByLabel('Login').fill('heron')
  await dialog.getByLabel('Password').fill(PASSWORD)
  await dialog.getByRole('button', { name: 'Sign in' }).click()
  await expect(dialog).toHaveCount(0)
  // What was asked meanwhile is asked again by itself.
  await expect(text).toHaveValue(/Half typed[\s\S]*# more/)
  await expect(other.getByText('No errors.')).toBeVisible()
  await other.getByRole('button', { name: 'Save as a new estate' }).click()
  await expect(other).toHaveURL(/\/half-typed[^/]*\/head\/exits/)
  await context.close()
})

test('a token is made, told once, and ended', async ({ page, request }) => {
  await page.goto('/account')
  await page.getByLabel('Name', { exact: true }).fill('nightly check')
  await page.getByRole('button', { name: 'Make a token' }).click()
  const token = await page
    .getByRole('status')
    .filter({ hasText: 'nightly' })
    .locator('.mono')
    .innerText()
  const headers = { authorization: `Bearer ${token}` }
  expect((await request.get('/api/estates', { headers })).status()).toBe(200)
  await page.reload()
  await expect(page.getByRole('row', { name: /nightly check/ })).toBeVisible()
  await expect(page.getByText(token)).toHaveCount(0)
  await page
    .getByRole('row', { name: /nightly/ })
    .getByRole('button', { name: 'end it' })
    .click()
  await expect(page.getByRole('row', { name: /nightly/ })).toHaveCount(0)
  expect((await request.get('/api/estates', { headers })).status()).toBe(401)
})

for (const path of [
  '/account',
  '/account?show=people',
  '/account?show=estate',
  '/account?show=record',
])
  test(`axe finds nothing on ${path}`, async ({ page }) => {
    await page.goto('/halite-ferries/head/exits')
    await page.goto(path)
    await page.waitForLoadState('networkidle')
    expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([])
  })

test('axe finds nothing where one signs in', async ({ browser }) => {
  const context = await browser.newContext({ storageState: SIGNED_OUT })
  const page = await context.newPage()
  for (const path of ['/sign-in', '/join#none']) {
    await page.goto(path)
    await expect(page.getByRole('heading', { name: 'Salt Trail' })).toBeVisible()
    expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([])
  }
  await context.close()
})
