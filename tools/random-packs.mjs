// Writes and proves so many random packs, unharmed and harmed: npm run random-packs -- [COUNT] [SEED]
import { runTool } from './install.mjs';
import path from 'node:path';

const [count = '10000', seed = String(Date.now() % 1_000_000)] = process.argv.slice(2);
process.stderr.write(`${count} random packs, seed ${seed}\n`);
process.env.RANDOM_PACKS = count;
process.env.RANDOM_SEED = seed;
process.exitCode = runTool(path.join('node_modules', '.bin', 'jest'), ['tests/integration/random-packs']);
