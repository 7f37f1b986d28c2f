import { existsSync } from 'node:fs'

/** Without a window, as Debian has it: it takes a quarter less of a processor than the whole browser, which serves as well. */
export const headlessShell = '/usr/bin/chromium-headless-shell'
const wholeBrowser = '/usr/bin/chromium'

/** The browser that is driven: the one named in CHROMIUM, or the first that is there; undefined where there is none. */
export const browserToDrive = () =>
  process.env.CHROMIUM ?? [headlessShell, wholeBrowser].find((file) => existsSync(file))

/** How it is started. */
export const launchOptions = {
  executablePath: browserToDrive(),
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--autoplay-policy=no-user-gesture-required',
  ],
}
