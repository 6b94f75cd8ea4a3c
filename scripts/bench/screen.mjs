// `npm run bench:screen [-- M L]`: how fast the application is on screen, in Chromium, on generated
// estates.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { cpus, tmpdir, totalmem } from 'node:os'
import { join } from 'node:path'
import { chromium } from '@playwright/test'
import { startWorld } from '../../test/machine/world.mjs'
import { CHROMIUM } from '../machine/chromium.mjs'
import { measureDraft } from './screen-drafts.mjs'
import { command, root } from '../machine/run.mjs'

const at = (times, share) =>
  [...times].sort((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * share))]
const ms = (value) => `${value < 10 ? value.toFixed(1) : Math.round(value)} ms`
const row = (what, value) => console.log(`| ${what} | ${value} |`)

await command(async () => {
  const sizes = process.argv.slice(2).length > 0 ? process.argv.slice(2) : ['M', 'L']
  const folder = mkdtempSync(join(tmpdir(), 'salt-trail-bench-'))
  const world = await startWorld()
  const browser = await chromium.launch(CHROMIUM)
  try {
    console.log(
      `Node ${process.version}, ${cpus().length} cores, ${Math.round(totalmem() / 2 ** 30)} GiB; server and browser on the same machine\n`,
    )
    console.log('| what | measured |\n|---|---|')
    for (const size of sizes) {
      const estate = await bringIn(world, folder, size)
      await measure(size, estate, world, browser)
      await measureDraft(size, estate, world, browser, { row, tell: ms })
    }
    return 0
  } finally {
    await browser.close()
    await world.stop()
    rmSync(folder, { recursive: true, force: true })
  }
})

/** Saves a generated estate and waits until it is analysed. */
async function bringIn(world, folder, size) {
  const file = join(folder, `${size}.json`)
  execFileSync(
    process.execPath,
    ['--import', 'tsx', 'scripts/generator/main.ts', '--size', size, '--out', file],
    { cwd: root },
  )
  const text = readFileSync(file, 'utf8')
  const body = JSON.stringify({ files: [{ name: `${size}.json`, text }] })
  const saved = await (
    await fetch(`${world.address}/api/estates`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie: world.cookie },
      body,
    })
  ).json()
  for (
    let state = 'running';
    state === 'running';
    await new Promise((done) => setTimeout(done, 500))
  ) {
    const asked = `${world.address}/api/estates/${saved.slug}/1/analysis`
    state = (await (await fetch(asked, { headers: { cookie: world.cookie } })).json()).state
  }
  const { interfaces, routeTables } = JSON.parse(text)
  return {
    slug: saved.slug,
    hosts: Object.keys(interfaces),
    tables: spread(Object.keys(routeTables), 8),
  }
}

/** So many of a list, evenly spread. */
function spread(list, count) {
  return Array.from({ length: count }, (_, at) => list[Math.floor((at * list.length) / count)])
}

async function measure(size, { slug, hosts }, world, browser) {
  const page = await browser.newPage({
    baseURL: world.address,
    storageState: world.storageState,
    viewport: { width: 1280, height: 800 },
  })
  // The first visit fetches the application itself; those after it are what a day is made of.
  const views = []
  for (let visit = 0; visit < 4; visit++) {
    const start = performance.now()
    await page.goto(`/${slug}/head/exits`, { waitUntil: 'commit' })
    await page.getByRole('row').nth(3).waitFor()
    views.push(performance.now() - start)
  }
  row(
    `${size}: Exits, first view (first rows read)`,
    `${ms(at(views, 0.5))} median of ${views.length} visits, the first ${ms(views[0])}`,
  )
  await page.getByText(/analysed revision/).waitFor()
  await page.waitForLoadState('networkidle')

  await page.mouse.move(150, 600)
  await page.evaluate(() => {
    window.frames_ = []
    let last = performance.now()
    const tick = (now) => {
      window.frames_.push(now - last)
      last = now
      window.ticking = requestAnimationFrame(tick)
    }
    window.ticking = requestAnimationFrame(tick)
  })
  for (let i = 0; i < 120; i++) await page.mouse.wheel(0, 400)
  const frames = await page.evaluate(
    () => (cancelAnimationFrame(window.ticking), window.frames_.slice(2)),
  )
  row(
    `${size}: Exits, scrolling`,
    `${ms(at(frames, 0.5))} a frame median, ${ms(at(frames, 0.99))} at 99 %, ${ms(Math.max(...frames))} the longest of ${frames.length}`,
  )

  await page.keyboard.press('/')
  const word = hosts[Math.floor(hosts.length / 2)].slice(0, 8)
  const keys = []
  for (const letter of word) {
    keys.push(
      await page.evaluate(async (key) => {
        const field = document.activeElement
        const start = performance.now()
        field.value += key
        field.dispatchEvent(
          new InputEvent('input', { bubbles: true, data: key, inputType: 'insertText' }),
        )
        await new Promise((done) => requestAnimationFrame(() => setTimeout(done)))
        return performance.now() - start
      }, letter),
    )
  }
  row(
    `${size}: question bar, a letter typed until its completions are drawn, among ${hosts.length.toLocaleString('en-GB')} hosts`,
    `${ms(at(keys, 0.5))} median, ${ms(Math.max(...keys))} the longest`,
  )

  const traces = []
  for (let i = 0; i < 12; i++) {
    const from = hosts[(i * 7919) % hosts.length]
    await page.goto(`/${slug}/head/exits`)
    await page.getByRole('grid').waitFor()
    await page.keyboard.press('/')
    await page.keyboard.type(`${from} > internet tcp 443`)
    const start = performance.now()
    await page.keyboard.press('Control+Enter')
    await page.getByRole('heading', { level: 1 }).waitFor()
    await page.getByRole('group', { name: 'The way there and the way back' }).waitFor()
    traces.push(performance.now() - start)
  }
  row(
    `${size}: opening a trace from the question bar, until the strip is drawn`,
    `${ms(at(traces, 0.5))} median, ${ms(Math.max(...traces))} the longest of ${traces.length}`,
  )

  await page.goto(`/${slug}/head/map`)
  const start = performance.now()
  await page.getByRole('group', { name: 'Map of the estate' }).waitFor({ timeout: 120_000 })
  row(`${size}: the map, laid out`, ms(performance.now() - start))
  await page.close()
}
