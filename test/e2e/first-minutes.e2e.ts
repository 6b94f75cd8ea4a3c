import { readFileSync } from 'node:fs'
import { expect, test, type Page } from '@playwright/test'

/** Opens a page and waits until keys work there. */
async function open(page: Page, path: string): Promise<void> {
  await page.goto(path)
  await expect(page.getByRole('search')).toBeVisible()
}

test('a newcomer sees the exits, asks why a host cannot reach the internet, and reads the reason', async ({
  page,
}) => {
  await page.goto('/')
  await expect(page).toHaveURL(/\/halite-ferries\/head\/exits(\?|$)/)
  await expect(page.getByRole('grid')).toBeVisible()
  await expect(page.getByRole('row', { name: /^app-2 private/ })).toContainText('no route')
  await expect(page.getByText('analysed revision 3')).toBeVisible()

  await page.keyboard.press('/')
  await page.keyboard.type('seat-plan-2 > internet tcp 443')
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/trace\?from=interface:seat-plan-2&to=internet&over=tcp\+443/)
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Lost on the way')
  const why = page.getByText('No route at ticketing-default covers the destination.')
  await expect(why.first()).toBeVisible()
  // The evidence of the fault is open by itself.
  await expect(
    page.getByText(
      'ticketing-app-2 has no table of its own; its network’s default table, ticketing-default, holds.',
    ),
  ).toBeVisible()
  // Nothing fails behind it, once it is mended by what is proposed.
  await expect(page.getByText('associate ticketing-app-2 with ticketing-private-2')).toBeVisible()
  await expect(page.getByText('one fault on this path, and none found behind it')).toBeVisible()
})

test('where nothing mends a fault, what fails next is known all the same', async ({ page }) => {
  await page.goto(
    '/halite-ferries/head/trace?from=interface:booking-2&to=interface:jump-1&over=tcp+443',
  )
  await expect(page.getByText('None of the changes that were tried reaches it')).toBeVisible()
  await expect(page.getByText('2 faults on this path')).toBeVisible()
  await expect(page.getByText('What fails next, once that is mended')).toBeVisible()
})

test('the question can be picked from completions, field by field', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits')
  await page.getByRole('combobox', { name: 'from' }).click()
  await page.keyboard.type('10.40.16.10')
  await expect(page.getByRole('option').first()).toBeVisible()
  await page.getByRole('option', { name: /^seat-plan-1/ }).click()
  // The list gives the focus back in the next frame; then the next field has it.
  await expect(page.getByRole('combobox', { name: 'to', exact: true })).toBeFocused()
  await page.keyboard.type('fuel')
  await page.keyboard.press('Enter')
  await page.keyboard.type('443')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Works, there and back')
  await expect(page.getByText('leaves by ticketing-door, seen as 203.0.113.11')).toBeVisible()

  // The history offers it again.
  await open(page, '/halite-ferries/head/exits')
  await page.keyboard.press('/')
  await page.keyboard.press('ArrowDown')
  await expect(page.getByRole('option', { name: /asked before/ }).first()).toContainText(
    'seat-plan-1 > fuel-broker',
  )
})

test('a question that cannot be asked says why, and keeps what was typed', async ({ page }) => {
  await open(page, '/halite-ferries/head/exits')
  await page.keyboard.press('/')
  await page.keyboard.type('seat-plan-1 > internet magic')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert').filter({ hasText: 'is no protocol' })).toBeVisible()
  await expect(page.getByRole('combobox', { name: 'from' })).toHaveValue('seat-plan-1')
  await page.goto('/halite-ferries/head/trace?from=interface:seat-plan&to=internet&over=tcp+443')
  await expect(page.getByRole('heading', { name: 'This cannot be asked' })).toBeVisible()
  await page.getByRole('link', { name: 'interface:seat-plan-1' }).click()
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Works, there and back')
})

test('the matrix by keyboard: move, peek, trace', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits')
  const grid = page.getByRole('grid')
  await expect(grid).toBeFocused()
  const peek = page.getByRole('complementary')
  await expect(peek).toContainText('hub-jump to the internet')
  for (let row = 0; row < 4; row++) await page.keyboard.press('ArrowDown')
  await expect(peek).toContainText('ticketing-web-1 to the internet: three ways, one of them lost')
  await expect(peek).toContainText('banner-1 has no public address')
  await page.keyboard.press('ArrowRight')
  await expect(peek).toContainText('ticketing-web-1 to the provider’s services')
  for (let column = 0; column < 3; column++) await page.keyboard.press('ArrowRight')
  await expect(peek).toContainText('ticketing-web-1 within its network')
  await page.keyboard.press('Space')
  await expect(peek).toBeHidden()
  await page.keyboard.press('End')
  await expect(page.locator('[aria-selected="true"]')).toBeVisible()
  await page.keyboard.press('Home')
  for (let column = 0; column < 4; column++) await page.keyboard.press('ArrowLeft')
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/trace\?from=interface:jump-1&to=internet/)
  await page.keyboard.press('1')
  await expect(page).toHaveURL(/exits$/)
  await page.keyboard.press('2')
  await expect(page).toHaveURL(/trace\?from=interface:jump-1/)
  await page.goBack()
  await expect(page).toHaveURL(/exits$/)
})

test('only problems', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits')
  await expect(page.getByRole('row', { name: /^cards-1/ })).toBeVisible()
  await page.getByLabel('only problems').check()
  await expect(page).toHaveURL(/only=problems/)
  await expect(page.getByRole('row', { name: /^cards-1/ })).toBeHidden()
  await expect(page.getByRole('row', { name: /^app-2/ })).toBeVisible()
})

test('the strip: lanes aligned, gaps, evidence of every station by keyboard', async ({ page }) => {
  await page.goto(
    '/halite-ferries/head/trace?from=interface:seat-plan-1&to=party:fuel-broker&over=tcp+443',
  )
  const there = page.getByRole('list', { name: 'The way there' })
  const back = page.getByRole('list', { name: 'The way back' })
  await expect(there.getByRole('listitem')).toHaveCount(6)
  await expect(back.getByRole('listitem')).toHaveCount(6)
  await expect(back.getByText('not asked')).toHaveCount(1)
  // The first look-up is selected; to the right stands the NAT with its choice.
  await expect(page.getByRole('heading', { name: /Why this route won/ })).toBeVisible()
  await page.keyboard.press('ArrowRight')
  await expect(
    page.getByRole('heading', { name: 'Which address nat-ticketing chose' }),
  ).toBeVisible()
  await expect(page.getByText('the first whose destinations hold this one')).toBeVisible()
  await page.keyboard.press('ArrowDown')
  await expect(back.getByRole('button', { pressed: true })).toContainText(
    '203.0.113.11 becomes 10.40.16.10 again',
  )
})

test('the answer that a stateless list loses', async ({ page }) => {
  await page.goto('/halite-ferries/head/trace?from=internet&to=interface:booking-2&over=tcp+443')
  await expect(page.getByRole('heading', { level: 1 })).toContainText('One way: the answer is lost')
  await expect(page.getByText('allow out tcp 1024-32767 to any')).toBeVisible()
  await expect(page.getByText('the port does not match')).toBeVisible()
})

test('a fault: the checklist says which, and what would mend it was tried', async ({ page }) => {
  await page.goto('/halite-ferries/head/trace?from=interface:banner-1&to=internet&over=tcp+443')
  const checklist = page.getByRole('region', { name: 'Checklist' })
  await expect(checklist.getByRole('listitem')).toHaveCount(9)
  await expect(
    checklist.getByRole('button', { name: /a public address, or a translator ?: no/ }),
  ).toBeVisible()
  await expect(checklist.getByText(/the answer comes back ?: not reached/)).toBeVisible()
  await checklist.getByRole('button', { name: /a route leads there ?: yes/ }).click()
  await expect(page.getByRole('heading', { name: /Why this route won/ })).toBeVisible()
})

test('what would mend a fault was tried against the whole estate, and the rest of the path follows it', async ({
  page,
}) => {
  await page.goto('/halite-ferries/head/trace?from=interface:report-1&to=internet&over=tcp+443')
  const mend = page.getByRole('region', { name: 'What would mend it' })
  await expect(mend).toContainText('Each was tried against the whole estate')
  await expect(mend).toContainText(/route 0\.0\.0\.0\/0 by nat nat-ticketing/i)
  await expect(mend.getByText('cuts 0').first()).toBeVisible()
  await mend.getByRole('button', { name: 'what follows from it' }).first().click()
  await expect(mend.getByRole('list', { name: 'Opened' })).toContainText('ticketing-reports-1')
  // What is ghosted beyond the fault is what the first proposal makes of it.
  await expect(page.getByText('if mended: 10.40.40.10 becomes', { exact: false })).toBeVisible()
  await expect(page.getByText('has no public address')).toHaveCount(0)
})

test('a host that works beside one that does not: where they part is marked on both, and it can be sent as a link', async ({
  page,
}) => {
  await page.goto('/halite-ferries/head/trace?from=interface:banner-1&to=internet&over=tcp+443')
  const beside = page.getByRole('region', { name: 'Beside it' })
  await beside.getByLabel('Another host, or a whole question').fill('booking-1')
  await beside.getByRole('button', { name: 'Put beside' }).click()
  await expect(page).toHaveURL(/beside=booking-1/)
  await expect(beside).toContainText('booking-1 > internet tcp 443: works, there and back')
  await expect(beside).toContainText('10.40.1.10 becomes 203.0.113.5, one to one')
  await expect(page.getByText('here they part')).toHaveCount(2)
  await beside.getByLabel('Another host, or a whole question').fill('nobody-1')
  await beside.getByLabel('Another host, or a whole question').press('Enter')
  await expect(beside.getByRole('alert')).toContainText('nothing here is called "nobody-1"')
  await beside.getByRole('button', { name: 'Remove', exact: true }).click()
  await expect(page.getByText('here they part')).toHaveCount(0)
})

test('an answer is taken along as the document of the API', async ({ page }) => {
  await page.goto(
    '/halite-ferries/head/trace?from=interface:seat-plan-1&to=party:fuel-broker&over=tcp+443',
  )
  const saved = page.waitForEvent('download')
  await page.getByRole('button', { name: 'save as JSON' }).click()
  const file = await saved
  expect(file.suggestedFilename()).toBe('interface-seat-plan-1-to-party-fuel-broker.json')
  const document = JSON.parse(readFileSync(await file.path(), 'utf8')) as {
    verdict: string
    way: string[]
  }
  expect(document).toMatchObject({
    verdict: 'works',
    way: ['nats/nat-ticketing', 'gateways/ticketing-door'],
  })
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write'])
  await page.getByRole('button', { name: 'copy as text' }).click()
  await expect(page.getByRole('button', { name: 'copied' })).toBeVisible()
  expect(await page.evaluate(() => navigator.clipboard.readText())).toContain(
    'interface:seat-plan-1 to party:fuel-broker over tcp 443: works',
  )
})

test('the keys of a view are told', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits')
  await expect(page.getByRole('grid')).toBeFocused()
  await page.keyboard.press('?')
  const dialog = page.getByRole('dialog', { name: 'Keys' })
  await expect(dialog).toContainText('only problems')
  await page.keyboard.press('Escape')
  await expect(dialog).toBeHidden()
})
