import { readFileSync } from 'node:fs'
import { expect, test, type Page } from '@playwright/test'

/** A small shop: its till goes out by a NAT, its ledger by nothing. */
const shop = (name: string, ledger: string): string => `format: salt-trail/1
name: ${name}
networks: { shop: { ranges: [10.1.0.0/16] } }
gateways: { door: { kind: internet, network: shop } }
nats: { tide: { network: shop, placement: { subnet: edge }, addresses: [203.0.113.10] } }
publicAddresses: { 203.0.113.10: { reserved: true } }
parties: { bank: { ranges: [198.51.100.80/32], allowlist: [203.0.113.9/32] } }
routeTables:
  out: { network: shop, routes: [{ to: 0.0.0.0/0, via: { gateway: door } }] }
  inside: { network: shop, routes: [{ to: 0.0.0.0/0, via: { nat: tide } }] }
ruleSets: { open: { rules: [{ direction: out, peers: [any] }] } }
subnets:
  edge: { network: shop, ranges: [10.1.0.0/24], routeTable: out, role: public }
  front: { network: shop, ranges: [10.1.1.0/24], routeTable: inside, role: private }
  back: { network: shop, ranges: [10.1.2.0/24], ${ledger}role: private }
interfaces:
  till: { subnet: front, addresses: [10.1.1.9], ruleSets: [open] }
  ledger: { subnet: back, addresses: [10.1.2.9], ruleSets: [open] }
`

async function bringIn(page: Page, path: string, text: string, button: string): Promise<void> {
  await page.goto(path)
  await page
    .getByRole('button', {
      name: path.includes('into') ? 'Begin with its newest files' : 'Begin with an empty one',
    })
    .click()
  await page.getByRole('textbox', { name: /Text of/ }).fill(text)
  await page.getByRole('button', { name: button }).click()
  await expect(page.getByRole('grid')).toBeVisible()
}

test('a working day: bring in, see, ask, read, mend, compare, expect, report', async ({ page }) => {
  await bringIn(page, '/bring-in', shop('Quay Books', ''), 'Save as a new estate')
  const home = new URL(page.url()).pathname.replace('/exits', '')

  // See: the ledger has no way out. Ask why, and read the evidence.
  const back = page.getByRole('row', { name: /^back/ })
  await expect(back.getByRole('gridcell').first()).toContainText('no route')
  await back.getByRole('gridcell').first().dblclick()
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Lost on the way')
  await expect(page.getByText(/back has no table of its own|No route at/).first()).toBeVisible()

  // The finding says the same, with its packet in both directions.
  await page
    .getByRole('link', { name: /Findings/ })
    .first()
    .click()
  await page.getByRole('combobox', { name: 'by' }).selectOption('severity')
  await page
    .getByRole('button', { name: /back has no way|have rules|no way there/ })
    .first()
    .click()
  const finding = page.getByRole('region', { name: 'Finding hole-no-way-out' })
  await expect(finding.getByRole('table')).toContainText('ledger')
  await finding.getByRole('button', { name: 'hole-no-way-out' }).click()
  await expect(
    page.getByText(
      'Hosts have rules that allow the internet, but no route of their subnet leads there.',
    ),
  ).toBeVisible()
  await page.keyboard.press('Escape')

  // Mend it, and compare what became of it.
  await bringIn(
    page,
    `/bring-in?into=${home.split('/')[1]}`,
    shop('Quay Books', 'routeTable: inside, '),
    'Save as the next revision of',
  )
  await expect(
    page.getByRole('row', { name: /^back/ }).getByRole('gridcell').first(),
  ).toContainText('tide')
  await page.keyboard.press('9')
  await expect(page.getByText('Findings that went')).toBeVisible()
  const differs = page.getByLabel('What differs')
  await expect(
    differs
      .getByRole('row', { name: /^back/ })
      .filter({ hasText: 'tide, then door, as 203.0.113.10' })
      .first(),
  ).toContainText('No route at')
  await expect(differs.getByRole('link', { name: /back/ }).first()).toBeVisible()

  // Expect it for good.
  await page.keyboard.press('8')
  await expect(page.getByRole('heading', { name: 'Expectations of Quay Books' })).toBeVisible()
  await page.keyboard.press('n')
  await page.getByPlaceholder('cards-stay-home').fill('books-by-the-tide')
  await page.getByLabel('from', { exact: true }).last().fill('role private')
  await page.getByLabel('must').selectOption('leave-by')
  await page.getByLabel('by', { exact: true }).fill('nats/tide')
  await page.getByLabel('to', { exact: true }).last().fill('internet')
  await page.getByRole('button', { name: 'Prove it' }).click()
  await expect(page.getByText('books-by-the-tide holds')).toBeVisible()
  await page.getByRole('button', { name: 'Save as a new revision' }).click()
  await expect(page.getByRole('row', { name: /holds books-by-the-tide/ })).toBeVisible()
  await expect(page.getByRole('button', { name: /Quay Books/ })).toContainText('revision 3')

  // Tell the partner, and report.
  await page.keyboard.press('7')
  await page.getByLabel('seen by').selectOption('party:bank')
  await expect(page.getByRole('row', { name: /203\.0\.113\.10/ })).toContainText('no')
  await expect(page.getByText('203.0.113.9/32')).toBeVisible()
  const download = page.waitForEvent('download')
  await page.getByRole('button', { name: 'save the list' }).click()
  expect(readFileSync((await (await download).path())!, 'utf8')).toBe('203.0.113.10/32\n')
  await page.goto(`${home}/report`)
  await expect(page.getByRole('heading', { name: 'Quay Books: what is wrong' })).toBeVisible()
})

test('an expectation that cannot be read says where, and is not lost', async ({ page }) => {
  await page.goto('/halite-ferries/head/expectations')
  await page.getByRole('button', { name: 'write one' }).click()
  await page.getByRole('button', { name: 'as text' }).click()
  await page
    .getByRole('textbox', { name: 'Expectations in the format' })
    .fill('expectations:\n  a: { from: subnets/nowhere, to: internet, must: never-reach }\n')
  await page.getByRole('button', { name: 'Prove it' }).click()
  await expect(
    page.getByText(/line 2, column \d+: .*there is no "nowhere" in subnets/),
  ).toBeVisible()
  await expect(page.getByRole('textbox', { name: 'Expectations in the format' })).toHaveValue(
    /nowhere/,
  )
})

test('the map: the outside stays in sight beside the pane, and who is on the internet is joined with it', async ({
  page,
}) => {
  await page.setViewportSize({ width: 1280, height: 800 })
  await page.goto('/halite-ferries/head/map')
  const map = page.getByRole('group', { name: 'Map of the estate' })
  await map.getByRole('button', { name: /^fuel-broker .*joined to internet/ }).click()
  await map.getByRole('button', { name: /^cargo .*, network/ }).click()
  await expect(page.getByRole('complementary')).toContainText('cargo')
  const frame = (await map.boundingBox())!
  for (const name of [/^internet/, /^fuel-broker/, /^cargo .*, network/]) {
    const box = (await map.getByRole('button', { name }).boundingBox())!
    expect(box.x).toBeGreaterThanOrEqual(frame.x)
    expect(box.x + box.width).toBeLessThanOrEqual(frame.x + frame.width)
  }
})

test('on a wide screen the columns of Exits use the room', async ({ page }) => {
  await page.setViewportSize({ width: 1920, height: 1080 })
  await page.goto('/halite-ferries/head/exits')
  const last = page.getByRole('row').nth(3).getByRole('gridcell').last()
  const box = (await last.boundingBox())!
  expect(box.x + box.width).toBeGreaterThan(1880)
})

test('the map: by keys from mark to mark, a question’s two ways, a network’s ways out, as files', async ({
  page,
}) => {
  await page.goto(
    '/halite-ferries/head/map?from=interface:roster-1&to=interface:tide-gauge-1&over=tcp+8443',
  )
  const map = page.getByRole('group', { name: 'Map of the estate' })
  await expect(map.getByRole('button', { name: /^crew .*, network/ })).toBeVisible()
  await expect(page.getByText('roster-1 > tide-gauge-1 tcp 8443')).toBeVisible()
  await map.getByRole('button', { name: /^internet/ }).click()
  await expect(page.getByRole('complementary', { name: 'About internet' })).toContainText(
    'Joined to',
  )
  await map.getByRole('button', { name: /^internet/ }).focus()
  await page.keyboard.press('ArrowRight')
  await expect(page).toHaveURL(/at=(gateways|frontends)\//)
  await page.getByRole('button', { name: 'all of it' }).click()
  await map.getByRole('button', { name: /^ticketing .*, network/ }).click()
  await page.getByRole('button', { name: 'its ways out' }).click()
  await expect(page.getByText('ways out of ticketing')).toBeVisible()
  await expect(page).toHaveURL(/network=ticketing/)
  for (const [button, content] of [
    ['save as SVG', /<svg[^>]+viewBox="-16 -16 [^>]+>/],
    [
      'save as DOT',
      /^graph "Halite Ferries" \{[\s\S]*"networks\/crew" -- "networks\/hub" \[label="crew-hub"\]/,
    ],
  ] as const) {
    const download = page.waitForEvent('download')
    await page.getByRole('button', { name: button }).click()
    const text = readFileSync((await (await download).path())!, 'utf8')
    expect(text).toMatch(content)
    // A file of its own has no page to take its colours from.
    expect(text).not.toContain('var(--')
  }
})

test('what is chosen in one view is chosen in the others, and stands in the address', async ({
  page,
}) => {
  await page.goto('/halite-ferries/head/exits')
  await page.getByRole('grid').focus()
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowDown')
  await page.keyboard.press('ArrowRight')
  await expect(page).toHaveURL(/at=ticketing-web-1(\+|%20)services/)
  await page.keyboard.press('3')
  await expect(page).toHaveURL(/next-hops\?subnet=ticketing-web-1/)
  await page.getByRole('button', { name: 'IPv6' }).click()
  await expect(page).toHaveURL(/family=6/)
  await page.keyboard.press('6')
  await expect(page.getByRole('complementary', { name: 'About ticketing-web-1' })).toBeVisible()
  await page.keyboard.press('1')
  await expect(page.getByRole('complementary', { name: 'Ways of the cell' })).toContainText(
    'ticketing-web-1',
  )
  // A comparison is a link, too, and going back ends it.
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('c')
  await expect(page).toHaveURL(/compared=ticketing-web-1(\+|%20)ticketing-web-2/)
  await page.reload()
  await expect(
    page.getByRole('region', { name: 'ticketing-web-1 compared with ticketing-web-2' }),
  ).toBeVisible()
})

test('a page of no estate keeps the one looked at last within reach', async ({ page }) => {
  await page.goto('/halite-ferries/head/findings')
  await page.goto('/reference')
  await page.getByRole('link', { name: 'Findings', exact: true }).click()
  await expect(page).toHaveURL(/halite-ferries\/head\/findings/)
})

test('the station that is looked at is part of the link', async ({ page }) => {
  await page.goto('/halite-ferries/head/trace?from=interface:seat-plan-1&to=internet&over=tcp+443')
  await page
    .getByRole('list', { name: 'The way there' })
    .getByRole('button', { name: /^nat-ticketing/ })
    .click()
  await expect(page).toHaveURL(/at=there(\+|%20)3/)
  await page.reload()
  await expect(page.getByRole('heading', { name: /nat-ticketing/ })).toBeVisible()
})

test('Ctrl Enter answers from the last field of the question bar', async ({ page }) => {
  await page.goto('/halite-ferries/head/exits')
  await page.getByRole('grid').waitFor()
  await page.keyboard.press('/')
  await page.keyboard.type('seat-plan-1 > internet udp 53')
  await page.keyboard.press('Control+Enter')
  await expect(page).toHaveURL(/trace\?.*over=udp(\+|%20)53/)
})

test('address space: what is free, carved by a calculator that is part of the link', async ({
  page,
}) => {
  await page.goto('/halite-ferries/head/addresses?half=space')
  await expect(page.getByText('free: 10.10.0.0/24')).toBeVisible()
  await page.getByPlaceholder('10.60.0.0/16').fill('10.60.0.0/16')
  await page.getByPlaceholder('4 or /24').fill('3')
  await expect(page.getByText('4 parts of /18, 16,379 usable addresses each')).toBeVisible()
  await expect(
    page.getByRole('row', { name: '10.60.64.0/18 10.60.64.4 10.60.127.254' }),
  ).toBeVisible()
  await expect(page).toHaveURL(/carve=10\.60\.0\.0\/16&into=3/)
  await page.getByPlaceholder('10.60.0.0/16').fill('10.60.0.1/16')
  await expect(page.getByText('10.60.0.1/16 has host bits set: write 10.60.0.0/16')).toBeVisible()
})

test('the path through the demo begins when asked, leads by links, and is left for good', async ({
  page,
}) => {
  await page.goto('/halite-ferries/head/exits')
  const path = page.getByRole('region', { name: 'A short path through the demo' })
  await path.getByRole('button', { name: 'Show me' }).click()
  await expect(page).toHaveURL(/only=problems/)
  await path.getByRole('button', { name: 'Next' }).click()
  await expect(page.getByRole('heading', { level: 1 })).toContainText('IPv4: lost on the way')
  await expect(page.getByText(/nat-telemetry takes the packet/).first()).toBeVisible()
  await path.getByRole('button', { name: 'Next' }).click()
  await expect(page.getByText('here they part').first()).toBeVisible()
  await path.getByRole('button', { name: 'Next' }).click()
  await expect(page.getByRole('group', { name: 'Map of the estate' })).toBeVisible()
  await page.reload()
  await expect(path.getByText('4 of 6')).toBeVisible()
  // Its end mends three faults, in a draft.
  await path.getByRole('button', { name: 'Next' }).click()
  await path.getByRole('button', { name: 'Next' }).click()
  await expect(page).toHaveURL(/draft-\d+\/draft/)
  await expect(page.getByText('3 changes to revision 3')).toBeVisible({ timeout: 15_000 })
  await expect(page.getByText('Computed in')).toBeVisible({ timeout: 15_000 })
  await path.getByRole('button', { name: 'Leave the path' }).click()
  await expect(path).toBeHidden()
  await page.goto('/halite-ferries/head/exits')
  await expect(page.getByRole('grid')).toBeVisible()
  await expect(path).toBeHidden()
})

test('going back undoes what was changed in a view; a table is taken along', async ({
  page,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  await page.goto('/halite-ferries/head/exits')
  await page.getByLabel('Grouped by').selectOption('role')
  await expect(page).toHaveURL(/by=role/)
  await page.getByRole('grid').focus()
  await page.keyboard.press('t')
  await expect(page).toHaveURL(/turned=entering/)
  await page.keyboard.press('u')
  await expect(page).not.toHaveURL(/turned=entering/)
  await page.goBack()
  await expect(page).not.toHaveURL(/by=role/)
  await page.getByRole('button', { name: 'Copy or save table' }).click()
  await page.getByRole('menuitem', { name: 'copy as Markdown' }).click()
  await expect(page.getByRole('button', { name: 'copied' })).toBeVisible()
  expect(await page.evaluate(() => navigator.clipboard.readText())).toMatch(
    /^\| network \| subnet \| ranges \|[\s\S]*\| ticketing \| ticketing-app-2 \|/,
  )
})

test('next hops of two revisions lie under each other', async ({ page }) => {
  await page.goto('/halite-ferries/3/next-hops?subnet=crew-roster-1')
  await page.getByRole('button', { name: 'compare with revision 2' }).click()
  await expect(
    page.getByRole('columnheader', { name: 'crew-roster-1 in revision 2' }),
  ).toBeVisible()
  await expect(page.getByRole('row', { name: /10\.52\.0\.0/ }).first()).toContainText(
    'harbour-wall',
  )
  await expect(page).toHaveURL(/with=crew-roster-1&of=2/)
})
