import { encodePiece, type PieceResult, type PieceTask } from '../formats';
import { faultOf } from '../../../tests/helpers/rasters';
import { PiecePool, type SpawnPieceThread } from './piece-pool';

const task = (seed: number): PieceTask => ({
  codes: Uint16Array.from({ length: 64 }, (_, i) => i * seed),
  width: 8,
  bytes: 2,
  context: 0,
  fromTop: true,
  first: true,
  last: true,
  preset: 'fast',
});

/** Threads that answer when told to, in the order of their posts. */
function manual() {
  const waiting: (() => void)[] = [];
  const deaths: (() => void)[] = [];
  let started = 0;
  let ended = 0;
  const spawn: SpawnPieceThread = (done, failed) => {
    started++;
    deaths.push(failed);
    return {
      post: (t) => waiting.push(() => done(encodePiece(t))),
      hold: () => undefined,
      end: () => {
        ended++;
      },
    };
  };
  return { spawn, waiting, deaths, counts: () => ({ started, ended }) };
}

test('starts as many threads as it may, hands pieces out as threads come free, and gives each its own result', async () => {
  const { spawn, waiting, counts } = manual();
  const pool = new PiecePool(spawn, 2);
  const results: Promise<PieceResult>[] = [1, 2, 3, 4].map((n) => pool.encode(task(n)));
  expect(counts().started).toBe(2);
  expect(waiting).toHaveLength(2);
  // the second thread is quicker
  waiting[1]!();
  waiting[2]!();
  waiting[0]!();
  waiting[3]!();
  const bytes = (await Promise.all(results)).map((r) => [...r.bytes]);
  [1, 2, 3, 4].forEach((n, i) => expect(bytes[i]).toEqual([...encodePiece(task(n)).bytes]));
  expect(pool.underWay).toBe(0);
  await pool.end();
  expect(counts().ended).toBe(2);
});

test('a thread that dies is told; the pool goes on with a new one', async () => {
  const { spawn, waiting, deaths } = manual();
  const pool = new PiecePool(spawn, 1);
  const lost = [pool.encode(task(1)), pool.encode(task(2))];
  deaths[0]!();
  for (const l of lost) expect((await faultOf(() => l)).found).toBe('an encoding thread that stopped');
  const again = pool.encode(task(3));
  waiting.at(-1)!();
  expect((await again).length).toBe(8 * 17);
});
