// `npm run screenshots`: one picture of each main view, from the demo, into docs/screenshots.
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { startWorld } from '../test/machine/world.mjs'
import { CHROMIUM } from './machine/chromium.mjs'
import { ensureDebian } from './machine/debian.mjs'
import { ensurePackages } from './machine/packages.mjs'
import { command, root, say } from './machine/run.mjs'

const DOWN = new Array(4).fill('ArrowDown')

/** Each picture: where it is taken, and what is done there first. */
const PICTURES = {
  exits: { path: '/halite-ferries/head/exits', keys: DOWN },
  'trace-lost': {
    path: '/halite-ferries/head/trace?from=interface:seat-plan-2&to=internet&over=tcp+443',
  },
  'trace-beside': {
    path: '/halite-ferries/head/trace?from=interface:banner-1&to=internet&over=tcp+443&beside=booking-1',
  },
  findings: { path: '/halite-ferries/head/findings' },
  map: {
    path: '/halite-ferries/head/map?from=interface:roster-1&to=interface:tide-gauge-1&over=tcp+8443',
  },
  'addresses-seen': { path: '/halite-ferries/head/addresses?to=party:fuel-broker' },
  'addresses-space': { path: '/halite-ferries/head/addresses?half=space' },
  revisions: { path: '/halite-ferries/head/revisions' },
  'next-hops': { path: '/halite-ferries/head/next-hops?subnet=crew-roster-1' },
  'ways-in': {
    path: '/halite-ferries/head/ways-in',
    act: (page) => page.getByRole('button', { name: 'behind it' }).first().click(),
  },
  'networks-talk': {
    path: '/halite-ferries/head/ways-in?show=networks&network=crew&to=hub',
    act: (page) => page.getByText('one packet').waitFor(),
  },
  expectations: { path: '/halite-ferries/head/expectations' },
  draft: { path: '/halite-ferries/draft-1/draft', act: foreseen },
  'draft-edit': {
    path: '/halite-ferries/draft-1/draft?do=edit&object=routeTables/ticketing-private-2',
    theme: 'dark',
    act: addRoute,
  },
  'draft-moves': {
    path: '/halite-ferries/draft-1/draft?do=move&move=fail&failing=zone:north-1',
    act: foreseen,
  },
  object: { path: '/halite-ferries/head/object?of=nats/nat-ticketing' },
  'sign-in': { path: '/sign-in', signedOut: true },
  account: { path: '/account' },
  'bring-in': { path: '/bring-in?into=halite-ferries', act: damageFile },
}

await command(async () => {
  await ensureDebian('postgresql', 'chromium')
  await ensurePackages()
  const { chromium } = await import('@playwright/test')
  const folder = join(root, 'docs/screenshots')
  mkdirSync(folder, { recursive: true })
  const world = await startWorld()
  const browser = await chromium.launch(CHROMIUM)
  try {
    for (const [
      name,
      { path, keys = [], theme = 'light', signedOut = false, act = async () => {} },
    ] of Object.entries(PICTURES)) {
      const page = await browser.newPage({
        baseURL: world.address,
        storageState: signedOut ? undefined : world.storageState,
        viewport: { width: 1280, height: 800 },
        colorScheme: theme,
      })
      await page.addInitScript(() => localStorage.setItem('salt-trail.path-left', 'true'))
      await page.goto(path)
      await page.waitForLoadState('networkidle')
      for (const key of keys) await page.keyboard.press(key)
      await act(page)
      await page.waitForTimeout(400)
      await page.screenshot({ path: join(folder, `${name}.png`) })
      say(`docs/screenshots/${name}.png`)
      await page.close()
    }
  } finally {
    await browser.close()
    await world.stop()
  }
  return 0
})

/** What follows from a draft is there. */
function foreseen(page) {
  return page.getByText('Computed in').waitFor()
}

/** A route more, which is foreseen before it is kept. */
async function addRoute(page) {
  await page.getByLabel('destination of a new route').fill('::/0')
  await page
    .getByLabel('next hop of a new route')
    .selectOption({ label: 'gateways/ticketing-v6-out' })
  await page.getByRole('button', { name: 'add it' }).click()
  await foreseen(page)
}

/** One of the demo's newest files with another text, as an editor leaves it. */
async function editFile(page, edit) {
  await page.getByRole('button', { name: 'Begin with its newest files' }).click()
  await page.getByRole('button', { name: '20-ticketing.yaml', exact: true }).click()
  const text = page.getByRole('textbox', { name: /Text of/ })
  await text.fill(edit(await text.inputValue()))
}

/** Two slips. */
async function damageFile(page) {
  await editFile(page, (text) =>
    text
      .replace('routeTable: ticketing-public', 'routetable: ticketing-public')
      .replace('10.40.2.0/24,', '10.40.2.1/24,'),
  )
  await page.getByText('2 errors').waitFor()
  await page.getByRole('button', { name: /host bits/ }).click()
}
