import { expect, test, type Page } from '@playwright/test'

/** Questions as people ask them: families, service names, ranges, what is pasted, what is found. */
const HEAD = '/halite-ferries/head'
const bar = (page: Page) => page.getByRole('search', { name: 'Question' })
const from = (page: Page) => bar(page).getByLabel('from')
const to = (page: Page) => bar(page).getByLabel('to')
const over = (page: Page) => bar(page).getByLabel('over')
async function ask(page: Page, whole: { from: string; to: string; over: string }): Promise<void> {
  await from(page).fill(whole.from)
  await to(page).fill(whole.to)
  await over(page).fill(whole.over)
  await over(page).press('Enter')
}
const title = (page: Page) => page.getByRole('main').getByRole('heading', { level: 1 })

test.beforeEach(async ({ page }) => {
  await page.addInitScript(() => localStorage.setItem('salt-trail.path-left', 'true'))
})

test('both families are answered, one beside the other, and neither hides the other', async ({
  page,
}) => {
  await page.goto(`${HEAD}/exits`)
  await ask(page, { from: 'roster-1', to: 'internet', over: 'https' })
  await expect(title(page)).toContainText('IPv6 does not pass harbour-wall')
  const cases = page.getByRole('navigation', { name: 'By family and port' })
  await expect(cases.getByRole('button')).toHaveCount(2)
  await cases.getByRole('button', { name: /^IPv6/ }).click()
  await expect(page).toHaveURL(/family=6/)
  await expect(page.getByRole('group', { name: 'The way there and the way back' })).toContainText(
    '2001:db8:44:3::10',
  )
  // A host whose IPv4 stays inside while its IPv6 leaves is not called lost.
  await ask(page, { from: 'rota-1', to: 'internet', over: '443' })
  await expect(title(page)).toHaveText('IPv4: lost on the way · IPv6: works, there and back')
})

test('a port alone, a service by name and a range of ports say what they are', async ({ page }) => {
  await page.goto(`${HEAD}/exits`)
  await over(page).fill('22')
  await expect(bar(page).getByRole('status')).toHaveText('TCP port 22, ssh')
  await over(page).fill('dns')
  await expect(bar(page).getByRole('status')).toHaveText('UDP port 53, dns')
  await ask(page, { from: 'booking-1', to: 'kiosk-1', over: 'ssh' })
  await expect(page).toHaveURL(/over=tcp\+22/)
  await expect(over(page)).toHaveValue('tcp 22')
  await ask(page, { from: 'pay-1', to: '10.44.3.10', over: 'tcp 400-500' })
  await expect(title(page)).toHaveText('Differs by port')
  const cases = page.getByRole('navigation', { name: 'By family and port' })
  await expect(cases.getByRole('button')).toHaveText([
    /^ports 400-442/,
    /^port 443/,
    /^ports 444-500/,
  ])
  await cases.getByRole('button', { name: /^port 443/ }).click()
  await expect(page.getByRole('main')).toContainText(':443')
  await over(page).fill('tcp nosuchservice')
  await over(page).press('Enter')
  await expect(bar(page).getByRole('alert')).toContainText('neither a port nor a service')
})

test('a key exchanges the ends, and what is pasted is taken apart', async ({ page }) => {
  await page.goto(`${HEAD}/trace?from=interface:booking-1&to=interface:kiosk-1&over=tcp+443`)
  await expect(title(page)).toBeVisible()
  await title(page).click()
  await page.keyboard.press('w')
  await expect(page).toHaveURL(/from=interface:kiosk-1&to=interface:booking-1/)
  await bar(page).getByRole('button', { name: 'Exchange the ends' }).click()
  await expect(page).toHaveURL(/from=interface:booking-1&to=interface:kiosk-1/)
  await ask(page, { from: 'booking-1', to: 'https://198.51.100.20:8443/orders', over: '' })
  await expect(page).toHaveURL(/to=198.51.100.20&over=tcp\+8443/)
  await ask(page, { from: 'booking-1', to: '198.51.100.20:25', over: '' })
  await expect(over(page)).toHaveValue('tcp 25')
})

test('an end that names nothing clears the old answer and says what may be meant', async ({
  page,
}) => {
  await page.goto(`${HEAD}/trace?from=interface:booking-1&to=interface:kiosk-1&over=tcp+443`)
  const strip = page.getByRole('group', { name: 'The way there and the way back' })
  await expect(strip).toBeVisible()
  // Left by the mouse, the field keeps what was typed in part.
  await from(page).fill('')
  await from(page).pressSequentially('repor')
  await over(page).click()
  await over(page).press('Enter')
  const refused = page.getByRole('main').getByRole('alert')
  await expect(refused).toContainText('may mean several things')
  await expect(strip).toBeHidden()
  await refused.getByRole('button', { name: 'report-2' }).click()
  await expect(page).toHaveURL(/from=interface:report-2/)
  await expect(strip).toBeVisible()
  await ask(page, { from: 'nobody-here', to: 'internet', over: '443' })
  await expect(refused).toContainText('nothing here is called "nobody-here"')
})

test('the bar finds objects, who has an address, findings and views', async ({ page }) => {
  await page.goto(`${HEAD}/exits`)
  await expect(page.getByRole('grid')).toBeVisible()
  await page.keyboard.press('/')
  await page.keyboard.type('203.0.113.44')
  await page.getByRole('option', { name: /go to intranet-1 .*its public address/ }).click()
  await expect(page).toHaveURL(/object\?of=interfaces\/intranet-1/)
  await page.keyboard.press('/')
  await page.keyboard.type('hole-dead')
  await page.getByRole('option', { name: /go to hole-dead-target/ }).click()
  await expect(page).toHaveURL(/findings\?finding=/)
  await page.keyboard.press('/')
  await page.keyboard.type('revis')
  await page.getByRole('option', { name: /go to Revisions/ }).click()
  await expect(page).toHaveURL(/revisions$/)
})

test('a name typed in part finds its object in every field', async ({ page }) => {
  const subnet = page.getByRole('main').getByLabel('subnet', { exact: true })
  await page.goto(`${HEAD}/next-hops`)
  await subnet.fill('roster')
  await subnet.press('Enter')
  await expect(page).toHaveURL(/subnet=crew-roster-1/)
  await page.goto(`${HEAD}/next-hops`)
  await subnet.fill('10.44.3.77')
  await subnet.press('Enter')
  await expect(page).toHaveURL(/subnet=crew-roster-1/)
  await page.goto(`${HEAD}/map`)
  const find = page.getByLabel('find')
  await find.fill('harbour-w')
  await find.press('Enter')
  await find.press('Enter')
  await expect(page).toHaveURL(/at=firewalls(\/|%2F)harbour-wall/)
  await page.goto(`${HEAD}/trace?from=interface:banner-1&to=internet&over=tcp+443`)
  const beside = page.getByLabel('Another host, or a whole question')
  await beside.fill('booking-1')
  await beside.press('Enter')
  await expect(page.getByText('First difference, on the way')).toBeVisible()
})

test('a link with something that its view does not know is refused with what is known', async ({
  page,
}) => {
  await page.goto(`${HEAD}/trace?form=interface:banner-1&to=internet`)
  const refused = page.getByRole('alert').filter({ hasText: 'This link cannot be followed' })
  await expect(refused).toContainText('form')
  await expect(refused).toContainText('from, to, over')
  await refused.getByRole('link', { name: 'Follow it without that' }).click()
  await expect(page).toHaveURL(/trace\?to=internet$/)
})
