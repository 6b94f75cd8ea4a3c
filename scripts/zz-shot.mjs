import { CHROMIUM } from './machine/chromium.mjs'
import { chromium } from '@playwright/test'
const [path, out, theme = 'light', ...acts] = process.argv.slice(2)
const b = await chromium.launch(CHROMIUM); const page = await b.newPage({ viewport: { width: +(process.env.W ?? 1280), height: +(process.env.H ?? 800) }, colorScheme: theme })
page.on('console', (m) => m.type() === 'error' && console.log('console:', m.text())); page.on('pageerror', (e) => console.log('page error', e.message))
await page.goto('http://127.0.0.1:7250' + path); await page.waitForLoadState('networkidle'); await page.waitForTimeout(500)
for (const a of acts) { const [k, ...v] = a.split('='); const val = v.join('='); if (k === 'key') await page.keyboard.press(val); if (k === 'type') await page.keyboard.type(val); if (k === 'click') await page.locator(val).first().click(); if (k === 'wait') await page.waitForTimeout(+val); if (k === 'hover') await page.locator(val).first().hover() }
await page.waitForTimeout(500); await page.screenshot({ path: out }); await b.close()
