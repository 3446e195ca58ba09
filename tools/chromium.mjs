// Finds Chromium for the browser tests, and installs Debian's where it is missing and that is possible.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';

/** Without windows it starts a page in a third of the time; the whole browser serves where it is all there is. */
const SHELL = '/usr/bin/chromium-headless-shell';
const BROWSER = '/usr/bin/chromium';
export const browserPath = () => [SHELL, BROWSER].find(existsSync) ?? SHELL;
export const FLAGS = [
  '--no-sandbox',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

/** True where Chromium is there, or could be installed. */
export function ensureChromium() {
  if (existsSync(SHELL)) return true;
  process.stderr.write("Installing Chromium from Debian's packages (once)\n");
  // another installation may hold the lock for a while
  const apt = (...args) =>
    spawnSync('apt-get', ['-o', 'DPkg::Lock::Timeout=180', ...args], {
      stdio: ['ignore', 2, 2],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  apt('update', '-qq');
  apt('install', '-y', '--no-install-recommends', 'chromium-headless-shell');
  if (existsSync(browserPath())) return true;
  process.stderr.write(
    `The browser tests need ${SHELL}, or ${BROWSER}. Neither could be installed here (that takes Debian and root).\n` +
      'Install the package "chromium-headless-shell" or "chromium" yourself, then run npm test again. The other tests run without it.\n',
  );
  return false;
}
