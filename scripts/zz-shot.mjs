import { chromium } from '@playwright/test'
import { CHROMIUM } from './machine/chromium.mjs'
const shots = JSON.parse(process.argv[2])
const browser = await chromium.launch(CHROMIUM)
for (const { name, path, keys = [], theme = 'light', size = [1280, 800], steps = [] } of shots) {
  const page = await browser.newPage({ baseURL: 'http://127.0.0.1:7250', viewport: { width: size[0], height: size[1] }, colorScheme: theme })
  page.on('pageerror', (e) => console.log(name, 'ERR', e.message))
  page.on('console', (m) => m.type() === 'error' && console.log(name, 'CON', m.text()))
  await page.goto(path)
  await page.waitForLoadState('networkidle')
  await page.waitForTimeout(300)
  for (const key of keys) await page.keyboard.press(key)
  for (const [what, sel, val] of steps) {
    if (what === 'click') await page.click(sel)
    if (what === 'fill') await page.fill(sel, val)
    if (what === 'wait') await page.waitForTimeout(Number(sel))
    if (what === 'press') await page.keyboard.press(sel)
    if (what === 'hover') await page.hover(sel)
    if (what === 'eval') console.log(name, await page.evaluate(sel))
  }
  await page.waitForTimeout(500)
  await page.screenshot({ path: `/tmp/w/${name}.png` })
  await page.close()
}
await browser.close()
