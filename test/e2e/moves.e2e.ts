import { expect, test, type Page } from '@playwright/test'
import { computed, demoCopy, draftOf, follows, withoutPath } from './draft-steps'

test.beforeEach(({ page }) => withoutPath(page))

interface Move {
  readonly title: string
  readonly choose?: Readonly<Record<string, string>>
  readonly fill?: Readonly<Record<string, string>>
  readonly says: RegExp
  readonly follows: RegExp
}

/** Each move on the demo: what is filled in, and what it is to say and bring about. */
const MOVES: readonly Move[] = [
  {
    title: 'A way out',
    choose: { subnets: 'ticketing-reports-1' },
    fill: { addresses: '203.0.113.13' },
    says: /A way out for ticketing-reports-1 by one NAT/i,
    follows: /Opened/,
  },
  {
    title: 'Services by endpoint',
    choose: { subnets: 'cargo-north', services: 'object-store' },
    says: /lead cargo-north to object-store by endpoints/i,
    follows: /other ways? out/,
  },
  {
    title: 'A firewall in front',
    choose: { subnets: 'ticketing-app-1', 'for traffic': 'internet' },
    fill: { firewall: 'tide-gate' },
    says: /put tide-gate in front of ticketing-app-1/i,
    follows: /1 subnet has other ways out/,
  },
  {
    title: 'Join networks',
    choose: { members: 'telemetry' },
    fill: { hub: 'ticketing' },
    says: /join telemetry to the hub ticketing/i,
    follows: /other ways out/,
  },
  {
    title: 'Associate subnets',
    choose: { subnets: 'ticketing-app-2' },
    fill: { 'route table': 'app-table', 'a new one begins as': 'ticketing-private' },
    says: /make the table app-table, and associate ticketing-app-2/i,
    follows: /1 subnet has other ways out/,
  },
  {
    title: 'Carve a range',
    choose: { roles: 'private', zones: 'north-1' },
    fill: { network: 'ticketing', range: '10.40.64.0/20', 'parts of /': '24' },
    says: /carve 10\.40\.64\.0\/20 into ticketing-private-north-1/i,
    follows: /other ways out|finding/,
  },
  {
    title: 'A fixed source',
    fill: { NAT: 'nat-telemetry', partner: 'fuel-broker', address: '203.0.113.20' },
    says: /show 203\.0\.113\.20 to fuel-broker/i,
    follows: /Computed in/,
  },
  {
    title: 'Drain an address',
    fill: { NAT: 'nat-ticketing', address: '203.0.113.10' },
    says: /drain 203\.0\.113\.10 of nat-ticketing/i,
    follows: /Computed in/,
  },
  {
    title: 'Clean up',
    says: /take out what is idle/i,
    follows: /go|Computed in/,
  },
  {
    title: 'Fail something',
    choose: { 'what fails': 'zone:north-1' },
    says: /Zone north-1 fails/i,
    follows: /Cut/,
  },
]

/** Chooses a move and fills its form in, until it says what it is going to do. */
async function fillIn(page: Page, move: Move): Promise<void> {
  const form = page.getByLabel('The move', { exact: true })
  await page.getByRole('button', { name: move.title, exact: true }).click()
  for (const [label, value] of Object.entries(move.choose ?? {}))
    await form.getByLabel(label, { exact: true }).selectOption(value)
  for (const [label, value] of Object.entries(move.fill ?? {}))
    await form.getByLabel(label, { exact: true }).fill(value)
  await expect(form.getByText(move.says).first()).toBeVisible({ timeout: 30_000 })
}

test('each move shows its consequences before it is taken', async ({ page }) => {
  test.setTimeout(120_000)
  const draft = await draftOf(page, 'halite-ferries')
  await page.goto(`${draft}?do=move`)
  const form = page.getByLabel('The move', { exact: true })
  for (const move of MOVES) {
    await test.step(move.title, async () => {
      await fillIn(page, move)
      await computed(page)
      await expect(follows(page).getByText(move.follows).first()).toBeVisible()
      await form.getByRole('button', { name: 'Take it into the draft' }).click()
      await expect(page.getByText('1 change to revision 3')).toBeVisible({ timeout: 15_000 })
      await page.keyboard.press('Control+z')
      await expect(page.getByText('0 changes to revision 3')).toBeVisible({ timeout: 15_000 })
    })
  }
})

test('moves add up to one plan, and are saved as one revision', async ({ page }) => {
  test.setTimeout(120_000)
  const slug = await demoCopy(page)
  const draft = await draftOf(page, slug)
  await page.goto(`${draft}?do=move`)
  const taken = MOVES.filter(({ title }) =>
    ['A way out', 'Associate subnets', 'Drain an address', 'Services by endpoint'].includes(title),
  )
  for (const [at, move] of taken.entries()) {
    await fillIn(page, move)
    await page
      .getByLabel('The move', { exact: true })
      .getByRole('button', { name: 'Take it into the draft' })
      .click()
    const changes = at === 0 ? '1 change' : `${at + 1} changes`
    await expect(page.getByText(`${changes} to revision 1`)).toBeVisible({ timeout: 15_000 })
  }
  await page.getByRole('tab', { name: 'Plan' }).click()
  const plan = page.getByLabel('Plan', { exact: true })
  await expect(plan.getByRole('listitem').first()).toBeVisible({ timeout: 60_000 })
  const steps = await plan.locator('ol > li > h2').allInnerTexts()
  // A table is there before a subnet looks up in it.
  const place = (what: RegExp): number => steps.findIndex((step) => what.test(step))
  expect(place(/app-table/i)).toBeLessThan(place(/subnets.ticketing-app-2/i))
  await page.getByRole('tab', { name: 'Save and export' }).click()
  await page.getByRole('button', { name: 'Save as a new revision' }).click()
  await expect(page).toHaveURL(new RegExp(`/${slug}/2/findings`), { timeout: 30_000 })
  await page.goto(`/${slug}/2/object?of=subnets/ticketing-app-2`)
  await expect(page.getByText('app-table').first()).toBeVisible()
})

test('a swap of an address shows the new one and drains the old one', async ({ page }) => {
  const draft = await draftOf(page, 'halite-ferries', {
    change: {
      what: 'reserve another',
      patch: [{ op: 'add', path: '/publicAddresses/203.0.113.13', value: { reserved: true } }],
    },
  })
  await page.goto(`${draft}?do=move&move=swap`)
  const form = page.getByLabel('The move', { exact: true })
  await form.getByLabel('NAT', { exact: true }).fill('nat-ticketing')
  await form.getByLabel('address', { exact: true }).fill('203.0.113.10')
  await form.getByLabel('by', { exact: true }).fill('203.0.113.13')
  await expect(form.getByText(/show 203\.0\.113\.13 instead of 203\.0\.113\.10/i)).toBeVisible()
  await form.getByRole('button', { name: 'Take it into the draft' }).click()
  await expect(page.getByText('2 changes to revision 3')).toBeVisible()
})

test('rows chosen in Exits are changed in a draft in one act', async ({ page }) => {
  const slug = await demoCopy(page)
  await page.goto(`/${slug}/head/exits`)
  await page.getByRole('rowheader', { name: /^web-1/ }).click()
  await page.getByRole('rowheader', { name: /^web-2/ }).click()
  await page.getByRole('button', { name: 'change in a draft' }).click()
  await expect(page).toHaveURL(/draft-\d+\/draft\?.*move=associate/)
  const form = page.getByLabel('The move', { exact: true })
  await expect(form.getByText('ticketing-web-2')).toBeVisible()
})
