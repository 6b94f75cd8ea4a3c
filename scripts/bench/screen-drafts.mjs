// How fast a draft is on screen: the first consequences of one that is opened, and those of a route
// that is added in a form.

const FOLLOWS = '[aria-label="What follows from the draft"] section[aria-busy]'

/** Waits until what follows from a draft is drawn so far: by whether it is still being computed. */
const until = (page, isBusy, withoutPackets = false) =>
  page.waitForFunction(
    ([selector, busy, first]) => {
      const section = document.querySelector(selector)
      if (section === null) return false
      const isNow = section.getAttribute('aria-busy') === 'true'
      return first && section.textContent.includes('Packets are being compared')
        ? true
        : isNow === busy
    },
    [FOLLOWS, isBusy, withoutPackets],
    { polling: 'raf', timeout: 180_000 },
  )

async function startDraft(world, slug, table) {
  const patch = [
    {
      op: 'add',
      path: `/routeTables/${table}/routes/-`,
      value: { to: '203.0.113.0/24', via: 'drop' },
    },
  ]
  const answer = await fetch(`${world.address}/api/estates/${slug}/drafts`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', cookie: world.cookie },
    body: JSON.stringify({
      name: 'Measured',
      change: { what: 'drop a range', patch },
    }),
  })
  return (await answer.json()).id
}

/** Measures a draft of an estate with some route tables; `row` and `tell` write what was measured. */
export async function measureDraft(size, { slug, tables }, world, browser, { row, tell }) {
  const page = await browser.newPage({
    baseURL: world.address,
    storageState: world.storageState,
    viewport: { width: 1280, height: 800 },
  })
  await page.addInitScript("localStorage.setItem('salt-trail.path-left', 'true')")
  const id = await startDraft(world, slug, tables[0])
  const begun = performance.now()
  await page.goto(`/${slug}/draft-${id}/draft?do=edit`)
  await until(page, false, true)
  const first = performance.now() - begun
  await until(page, false)
  row(
    `${size}: opening a draft, until its first consequences are drawn`,
    `${tell(first)}, ${tell(performance.now() - begun)} with its packets`,
  )
  const firsts = []
  const wholes = []
  for (const table of tables.slice(1, 8)) {
    await page.getByLabel('Kind of object').selectOption('routeTables')
    await page.getByLabel('Id of the object').fill(table)
    await page.getByRole('button', { name: 'Open' }).click()
    await page.getByLabel('destination of a new route').fill('198.51.100.0/24')
    await page.getByLabel('next hop of a new route').selectOption({ label: 'drop' })
    await until(page, false)
    const start = performance.now()
    await page.getByRole('button', { name: 'add it' }).click()
    await until(page, true)
    await until(page, false, true)
    firsts.push(performance.now() - start)
    await until(page, false)
    wholes.push(performance.now() - start)
    await page.getByRole('button', { name: 'As it was' }).click()
    await until(page, false)
  }
  const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1]
  row(
    `${size}: a route added in a draft, until findings and ways that follow are drawn`,
    `${tell(median(firsts))} median, ${tell(median(wholes))} with its packets, of ${firsts.length}`,
  )
  await page.close()
}
