// Finds Chromium for the browser tests, and installs Debian's where it is missing and that is possible.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';

export const CHROMIUM = '/usr/bin/chromium';
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
  if (existsSync(CHROMIUM)) return true;
  process.stderr.write("Installing Chromium from Debian's packages (once)\n");
  // another installation may hold the lock for a while
  const apt = (...args) =>
    spawnSync('apt-get', ['-o', 'DPkg::Lock::Timeout=180', ...args], {
      stdio: ['ignore', 2, 2],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  apt('update', '-qq');
  apt('install', '-y', '--no-install-recommends', 'chromium');
  if (existsSync(CHROMIUM)) return true;
  process.stderr.write(
    `The browser tests need ${CHROMIUM}. It could not be installed here (that takes Debian and root).\n` +
      'Install the package "chromium" yourself, then run npm test again. The other tests run without it.\n',
  );
  return false;
}
