import zlib from 'node:zlib';
import { concatBytes, memorySource, type ByteSource } from '../../base';
import { openHeightFile } from '..';
import { inflateInto } from '../second-thread';
import { faultOf, hills, pngSource } from '../../../../tests/helpers/rasters';
import { endedBy, sharedSource } from '../../../../tests/helpers/shared-source';

const SIDE = 700;
const codes = hills(SIDE, SIDE);
let bytes: Uint8Array;
beforeAll(async () => {
  const source = await pngSource(codes, SIDE);
  bytes = (await source.read(0, source.size)).slice();
});

async function samplesOf(source: ByteSource): Promise<{ samples: Uint16Array; warnings: string[] }> {
  const opened = await openHeightFile(source);
  const samples = new Uint16Array(opened.info.width * opened.info.height);
  for await (const band of opened.bands()) samples.set(band.data, band.y * opened.info.width);
  return { samples, warnings: opened.lateWarnings.map((w) => w.code) };
}

/** The same picture as one IDAT chunk, its compressed bytes changed by `change`. */
function rebuilt(change: (data: Buffer) => Buffer): Uint8Array {
  const data: Buffer[] = [];
  const view = Buffer.from(bytes);
  for (let at = 8; at < view.length;) {
    const length = view.readUInt32BE(at);
    if (view.toString('latin1', at + 4, at + 8) === 'IDAT') data.push(view.subarray(at + 8, at + 8 + length));
    at += 12 + length;
  }
  const body = change(Buffer.concat(data));
  const head = Buffer.alloc(8);
  head.writeUInt32BE(body.length);
  head.write('IDAT', 4, 'latin1');
  const tail = Buffer.alloc(4);
  tail.writeUInt32BE(zlib.crc32(Buffer.concat([head.subarray(4), body])));
  return concatBytes([view.subarray(0, 33), head, body, tail, view.subarray(view.length - 12)]);
}

// two threads wait for each other: on a busy machine longer than one test may
jest.setTimeout(60_000);

test('two threads give the samples that one gives, and again on the next pass', async () => {
  const source = sharedSource('hills.png', bytes);
  expect((await samplesOf(source)).samples).toEqual(codes);
  expect(source.ended).toBe(1);
  expect(await samplesOf(source)).toEqual({ samples: codes, warnings: [] });
});

test('what is wrong with a file is told as by one thread', async () => {
  const middle = bytes.length >> 1;
  const flipped = bytes.slice();
  flipped[middle]! ^= 4;
  const sum = (data: Buffer): Buffer => {
    data[data.length - 1]! ^= 1;
    return data;
  };
  const fewer = (data: Buffer): Buffer =>
    zlib.deflateSync(zlib.inflateSync(data).subarray(0, 300 * (2 * SIDE + 1) + 7));
  for (const file of [bytes.slice(0, middle), flipped, rebuilt(sum), rebuilt(fewer), bytes.slice(0, 33)]) {
    const one = await faultOf(() => samplesOf(memorySource('hills.png', file)));
    const two = await faultOf(() => samplesOf(sharedSource('hills.png', file)));
    expect(two.toRecord()).toEqual(one.toRecord());
  }
});

test('a missing closing chunk costs no sample and is said', async () => {
  const found = await samplesOf(sharedSource('hills.png', bytes.slice(0, bytes.length - 12)));
  expect(found).toEqual({ samples: codes, warnings: ['cut-short'] });
});

test('who stops in the middle stops the other thread too', async () => {
  const source = sharedSource('hills.png', bytes);
  const opened = await openHeightFile(source);
  let stop = false;
  const fault = await faultOf(async () => {
    for await (const band of opened.bands({
      signal: {
        get aborted() {
          return stop;
        },
      },
    }))
      stop = band.y >= 0;
  });
  expect(fault.code).toBe('cancelled');
  await endedBy(source);
  expect(source.ended).toBe(1);
});

test('a thread that dies is told, and nobody waits for it', async () => {
  for (const after of [0, 1]) {
    const near = memorySource('hills.png', bytes);
    const source: ByteSource = {
      ...near,
      thread: {
        inflate: async (format, memory) => {
          // dead before its first byte, or behind its last one
          if (after === 1) await inflateInto(format, near, memory);
          throw new Error('out of memory');
        },
      },
    };
    expect((await faultOf(() => samplesOf(source))).code).toBe('internal');
  }
});

test('what one thread finds wrong with the file, two threads find too', async () => {
  const cut = bytes.subarray(0, bytes.length - 12);
  const twice = concatBytes([cut, bytes.subarray(8, 33), bytes.subarray(-12)]);
  const longer = rebuilt((data) =>
    zlib.deflateSync(Buffer.concat([zlib.inflateSync(data), Buffer.alloc(SIDE * 2 + 1)])),
  );
  for (const file of [cut, twice, longer]) {
    const near = await openHeightFile(memorySource('hills.png', file));
    for await (const _ of near.bands());
    const far = await openHeightFile(sharedSource('hills.png', file));
    for await (const _ of far.bands());
    expect(near.lateWarnings).toHaveLength(1);
    expect(far.lateWarnings).toEqual(near.lateWarnings);
  }
});
