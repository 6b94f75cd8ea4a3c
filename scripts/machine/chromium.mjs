import { existsSync } from 'node:fs'

/**
 * Debian's Chromium. Where its headless build is there too, that one is taken: it draws no tab
 * strip for each page, which costs a core in a run of many pages.
 */
const PROGRAMS = ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium']

/** How it starts where there is no display, no sandbox and no network. */
export const CHROMIUM = {
  get executablePath() {
    return PROGRAMS.find((path) => existsSync(path)) ?? PROGRAMS[0]
  },
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
}
