import { CHROMIUM } from './machine/chromium.mjs'
import { chromium } from '@playwright/test'
const b = await chromium.launch(CHROMIUM); const page = await b.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'light' })
page.on('console', (m) => m.type() === 'error' && console.log('console:', m.text())); page.on('pageerror', (e) => console.log('page error', e.message))
await page.goto('http://127.0.0.1:7250/bring-in?into=halite-ferries')
await page.getByRole('button', { name: 'Begin with its newest files' }).click()
await page.getByRole('button', { name: '20-ticketing.yaml', exact: true }).click()
const text = page.getByRole('textbox', { name: /Text of/ })
const value = await text.inputValue()
await text.fill(value.replace('{ to: 0.0.0.0/0, via: { nat: nat-reports } }', '{ to: 0.0.0.0/0, via: { nat: nat-ticketing } }').replace('{ to: 0.0.0.0/0, via: { nat: nat-ticketing } }', '{ to: 0.0.0.0/0, via: { gateway: ticketing-door } }'))
await page.getByText(/findings? comes?/).waitFor({ timeout: 20000 })
await page.waitForTimeout(300)
await page.screenshot({ path: '/tmp/w/follow.png' }); await b.close()
