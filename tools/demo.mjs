// One command from a fresh clone to the running application: installs, builds, makes the demo data, serves.
import { spawn } from 'node:child_process';
import { createServer } from 'node:net';
import { ensureInstalled, root } from './install.mjs';

const FIRST_PORT = 4310;
const TRIES = 50;

/** Whether a server could listen there. */
function free(port) {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}

async function choosePort() {
  const asked = process.env.PORT;
  if (asked !== undefined) {
    const port = Number(asked);
    if (!Number.isInteger(port) || port < 1 || port > 65535)
      throw new Error(`PORT is "${asked}"; a number from 1 to 65535 is needed.`);
    if (!(await free(port))) throw new Error(`Port ${port} is taken. Choose another: PORT=${port + 1} npm run demo`);
    return port;
  }
  for (let port = FIRST_PORT; port < FIRST_PORT + TRIES; port++) if (await free(port)) return port;
  throw new Error(`No free port from ${FIRST_PORT} to ${FIRST_PORT + TRIES - 1}. Choose one: PORT=8080 npm run demo`);
}

ensureInstalled();
const { makeDemoData } = await import('./demo-data.mjs');
const { buildApp } = await import('./build-app.mjs');
try {
  await makeDemoData();
  if (!buildApp()) throw new Error('The application could not be built; see above.');
  const port = await choosePort();
  const server = spawn(
    process.execPath,
    ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', String(port)],
    {
      cwd: root,
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
    },
  );
  let told = false;
  server.stdout.on('data', (text) => {
    if (told || !/ready/i.test(String(text))) return;
    told = true;
    process.stdout.write(`Level Grid is ready: http://127.0.0.1:${port}\nStop it with Ctrl C.\n`);
  });
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => server.kill('SIGTERM'));
  server.on('exit', (code) => process.exit(code ?? 0));
} catch (reason) {
  process.stderr.write(`${reason.message}\n`);
  process.exit(1);
}
