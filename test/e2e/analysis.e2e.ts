import { expect, test } from '@playwright/test'

test('the matrix turned: by what traffic enters, as a link and by a key', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits')
  await page.getByRole('grid').focus()
  await page.keyboard.press('t')
  await expect(page).toHaveURL(/turned=entering/)
  const kiosk = page.getByRole('row', { name: /^kiosk-1/ })
  await expect(kiosk.getByRole('gridcell').first()).toContainText('tide-gate')
  await kiosk.getByRole('gridcell').first().click()
  const peek = page.getByRole('complementary', { name: 'Ways of the cell' })
  await expect(peek).toContainText('from the internet: one way')
  await peek.getByRole('link', { name: 'Ways in' }).click()
  await expect(page).toHaveURL(/ways-in\?subnet=ticketing-kiosk-1/)
})

test('the matrix by role, a column opened, two rows compared, some selected', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits')
  await page.getByLabel('Grouped by').selectOption('role')
  await expect(page.getByRole('row', { name: /^isolated 3 subnets/ })).toBeVisible()
  await page.getByRole('button', { name: 'Open Sites' }).click()
  const first = page.getByRole('row', { name: /^hub-jump/ })
  await expect(first.getByRole('gridcell')).toHaveCount(6)
  await expect(first.getByRole('gridcell').nth(3)).toContainText('gateway refuses')
  await expect(page).toHaveURL(/by=role&open=sites/)

  await page.getByRole('grid').focus()
  await page.keyboard.press('x')
  await expect(page.getByText('1 selected')).toBeVisible()
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('c')
  const compared = page.getByRole('region', { name: 'hub-jump compared with ticketing-web-1' })
  await expect(compared.getByRole('row', { name: /^Internet/ })).toContainText(
    'hub-door, seen as 203.0.113.60',
  )
  await expect(compared.getByRole('row', { name: /^harbour-control/ })).toContainText(
    'ticketing-door leads to the internet',
  )
  await page.keyboard.press('Escape')
  await expect(compared).toBeHidden()
  await page.keyboard.press('Shift+ArrowDown')
  await expect(page.getByText('3 selected')).toBeVisible()
  await page.getByRole('button', { name: 'clear' }).click()
  await expect(page.getByText('selected')).toHaveCount(0)

  // All of it is in the address.
  await page.reload()
  await expect(page.getByRole('row', { name: /^isolated 3 subnets/ })).toBeVisible()
  await page.getByRole('searchbox').fill('nat-cargo')
  await expect(page.getByText(/^\d of 22$/)).toBeVisible()
  await page.getByRole('searchbox').fill('no such thing')
  await expect(page.getByText('No subnet matches.')).toBeVisible()
})

test('what is wrong with a cell is said beside it, and leads to the finding', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits?find=crew-roster-1')
  const peek = page.getByRole('complementary')
  await peek
    .getByRole('link', { name: /IPv4 from crew-roster-1 passes harbour-wall, but IPv6/ })
    .click()
  await expect(page.getByRole('region', { name: 'Finding leak-ipv6' })).toBeVisible()
})

test('the most severe finding leads to its evidence, its mend and a trace', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits')
  await page.getByRole('link', { name: /1 critical/ }).click()
  await expect(page).toHaveURL(/findings\?severity=critical$/)
  await expect(page.getByRole('region', { name: 'Finding hole-nat-without-way-out' })).toBeVisible()
  await expect(
    page.getByText('lead the default route of telemetry-default to telemetry-door'),
  ).toBeVisible()
  await expect(
    page.getByText(
      '+ routeTables › telemetry-default › routes: [{ to: 0.0.0.0/0, via: { gateway: telemetry-door } }]',
    ),
  ).toBeVisible()

  await page.getByRole('combobox', { name: 'severity at least' }).selectOption('note')
  await page.getByRole('searchbox').fill('leak-ipv6')
  const cause = page.getByRole('region', { name: 'Root cause leak-direct' })
  await expect(cause).toContainText('Built-in routes of network crew')
  await cause.getByRole('button', { name: /IPv4 from crew-roster-1/ }).click()
  await expect(page.getByRole('region', { name: 'Finding leak-ipv6' })).toContainText(
    'IPv4 from crew-roster-1 passes harbour-wall',
  )
  await page.getByRole('button', { name: 'Show the whole trace' }).click()
  await expect(page).toHaveURL(/trace\?from=interface:roster-1/)
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Works, there and back')

  await page.goBack()
  await page.getByRole('combobox', { name: 'by' }).selectOption('network')
  await page.getByRole('searchbox').fill('')
  const list = page.getByLabel('List of findings')
  await expect(list.getByRole('heading', { level: 2 })).toContainText([
    'cargo',
    'crew',
    'hub',
    'telemetry',
    'ticketing',
  ])
  await page.getByRole('combobox', { name: 'in', exact: true }).selectOption('hub')
  await expect(list.getByRole('heading', { level: 2, name: 'crew' })).toHaveCount(0)
  await expect(page).toHaveURL(/network=hub/)

  // Any state of the view can be sent to a colleague.
  await page.goto('/halite-ferries/head/findings?family=weak&severity=medium&by=family')
  await expect(page.getByRole('heading', { name: 'Weak spots' })).toBeVisible()
  await expect(page.getByRole('heading', { name: 'Leaks' })).toHaveCount(0)
  await page.keyboard.press('ArrowDown')
  await expect(page).toHaveURL(/finding=/)
})

test('the ruler: an address typed in lands on its range, whose way stands', async ({ page }) => {
  await page.goto('/halite-ferries/head/next-hops?subnet=crew-roster-1')
  await expect(page.getByRole('figure', { name: 'The address space by way out' })).toBeVisible()
  await page.getByRole('textbox', { name: 'where is' }).fill('172.20.1.1')
  await page.keyboard.press('Enter')
  const range = page.getByRole('row', { name: /172\.20\.0\.0\/16/ })
  await expect(range).toContainText('crew-hub, then harbour-wall, then harbour-circuit')
  await expect(range).toHaveClass(/bg-wash/)
  await page.getByRole('textbox', { name: 'where is' }).fill('nonsense')
  await page.keyboard.press('Enter')
  await expect(page.getByText('that is no address')).toBeVisible()
  await page.getByRole('button', { name: 'IPv6' }).click()
  await expect(page.getByText('the built-in door').first()).toBeVisible()

  // The same subnet stays when the view changes.
  await page.getByRole('link', { name: /Ways in/ }).click()
  await page.getByRole('link', { name: 'into one subnet' }).click()
  await expect(page).toHaveURL(/ways-in\?subnet=crew-roster-1/)
})

test('two subnets’ next hops, one under the other: only where they differ', async ({ page }) => {
  await page.goto('/halite-ferries/head/next-hops?subnet=crew-roster-1')
  await page.getByRole('button', { name: 'compare with another subnet' }).click()
  await expect(page).toHaveURL(/with=/)
  const second = page.getByRole('combobox').nth(1)
  await second.fill('crew-desk-1')
  await second.press('Enter')
  await expect(page).toHaveURL(/with=crew-desk-1/)
  await expect(page.getByRole('columnheader', { name: 'where they differ' })).toBeVisible()
  await expect(page.getByRole('row', { name: /harbour-wall/ }).first()).toContainText(
    'crew-hub, then harbour-wall',
  )
  await page.getByRole('button', { name: 'remove', exact: true }).click()
  await expect(page.getByRole('columnheader', { name: 'destinations' })).toBeVisible()
})

test('who comes in, on what, and by which rules', async ({ page }) => {
  await page.goto('/halite-ferries/head/ways-in?subnet=ticketing-web-1')
  const row = page.getByRole('row', { name: /the internet booking-1/ })
  await expect(row).toContainText('tcp 443')
  await expect(row).toContainText('booking-group allows')
  await expect(page.getByText('What these hosts open up behind them')).toBeVisible()
  await row.getByRole('button', { name: 'trace one packet' }).click()
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Works, there and back')
})

test('expectations: what is broken shows its packet and its trace', async ({ page }) => {
  await page.goto('/halite-ferries/head/expectations')
  await expect(page.getByText('3 broken')).toBeVisible()
  const row = page.getByRole('row', { name: /roster-through-the-wall/ })
  await expect(row).toContainText('goes round what was named')
  await row.getByRole('button', { name: 'show its trace' }).click()
  await expect(page).toHaveURL(/trace\?from=interface:roster-1/)
})

test('a finding is lived with, says why and until when, and can be taken back', async ({
  page,
}) => {
  await page.goto('/halite-ferries/head/findings?family=weak&find=idle-gateway')
  const detail = page.getByRole('region', { name: 'Finding idle-gateway' })
  await detail.getByRole('button', { name: 'live with it, and say why' }).click()
  await detail.getByLabel('why this is lived with').fill('Kept for the new pier.')
  await detail.getByLabel(/until/).fill('2199-01-31')
  await detail.getByRole('button', { name: 'Accept' }).click()
  await expect(detail).toContainText('Accepted by E. Tern until 2199-01-31: Kept for the new pier.')
  await expect(page.getByText('and 1 accepted')).toBeVisible()
  await detail.getByRole('button', { name: 'withdraw the acceptance' }).click()
  await expect(page.getByText('and 1 accepted')).toHaveCount(0)
})

test('what decides several findings is one entry: what mends all of it, and each of them', async ({
  page,
}) => {
  await page.goto('/halite-ferries/head/findings')
  await page
    .getByRole('button', { name: /route table ticketing-reports to NAT nat-reports/ })
    .click()
  const cause = page.getByRole('region', { name: 'Root cause hole-dead-target' })
  await expect(cause.getByRole('list').first()).toContainText('2 findings')
  await expect(cause.getByText(/mends 2 of 2/)).toBeVisible({ timeout: 30_000 })
  await cause.getByRole('button', { name: /The rules of report-1 allow it the internet/ }).click()
  const finding = page.getByRole('region', { name: 'Finding hole-no-way-out' })
  await expect(finding.getByRole('table')).toContainText('report-1')
  await finding.getByRole('button', { name: 'live with it, and say why' }).click()
  await finding.getByLabel('why this is lived with').fill('Reports are sent by hand.')
  await finding.getByLabel('for its root cause, with whatever joins it').check()
  await finding.getByRole('button', { name: 'Accept' }).click()
  await expect(finding).toContainText('Its root cause is accepted by E. Tern')
  await expect(page.getByText('and 2 accepted')).toBeVisible()
  await finding.getByRole('button', { name: /‹ The route of route table/ }).click()
  await cause.getByRole('button', { name: 'withdraw the acceptance' }).click()
  await expect(page.getByText('and 2 accepted')).toHaveCount(0)
})
