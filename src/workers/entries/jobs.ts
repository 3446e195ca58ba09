import * as Comlink from 'comlink';
import { ByteRing, checkpoint, LevelGridError, type ByteSource, type JobContext } from '../../core/base';
import { compare } from '../../core/compare';
import { isCompanion, partsOf, rawPreview, type PieceResult } from '../../core/formats';
import { byHand, edgesOf, type Edges, type Part } from '../../core/mosaic';
import { prove } from '../../core/proof';
import {
  allocateSamples,
  extremesOf,
  memoryRaster,
  RowSampler,
  StatisticsCollector,
  storedBytes,
  withLook,
  type RasterInfo,
  type StoredSamples,
} from '../../core/raster';
import {
  checksumsOf,
  factsOf,
  enterFit,
  holdStage,
  lookAt,
  measureEntered,
  packOrHeights,
  measureGround,
  openReading,
  PiecePool,
  run,
  startContent,
  withSums,
  zipOf,
  type CountedSource,
  type SpawnPieceThread,
} from '../../core/run';
import { pictureOf, type SmallPicture } from '../../core/view';
import { BlobFolder, blobSource } from '../../io/browser';
import type { HeldSource, JobWorker } from '../protocol';
import { readyInflateThread, sharedSource } from './inflate-thread';
import { jobOf, outcome } from './outcome';

/** A tab holds a source decoded; more than this it should not. */
const MAX_HELD_BYTES = 1.5e9;

/** Encoding threads of this tab; started when first needed. */
let pool: PiecePool | null = null;

const pieceThread: SpawnPieceThread = (done, failed) => {
  const thread = new Worker(new URL('./piece.ts', import.meta.url), { type: 'module' });
  thread.onmessage = ({ data }: MessageEvent<PieceResult>) => done(data);
  thread.onerror = failed;
  return {
    post: (task) => thread.postMessage(task, [task.codes.buffer as ArrayBuffer]),
    hold: () => undefined,
    end: () => thread.terminate(),
  };
};

const held = new Map<string, CountedSource>();

function counted(id: string): CountedSource {
  const source = held.get(id);
  if (source) return source;
  throw new LevelGridError('not-found', {
    found: 'no source in the worker',
    expected: 'a source that was brought in',
    remedy: 'Bring the file in again.',
  });
}

/** The height files of a bundle. */
const heightSourcesOf = async (blob: Blob, name: string): Promise<ByteSource[]> =>
  (await partsOf(sharedSource(blob, name))).filter((s) => !isCompanion(s.name));

/** The same, opened. */
async function openedParts(sources: readonly ByteSource[]): Promise<Part[]> {
  const parts: Part[] = [];
  for (const source of sources) parts.push({ name: source.name, raster: await openReading(source, {}) });
  return parts;
}

interface Board {
  readonly key: string;
  readonly parts: readonly Part[];
  readonly edges: readonly Edges[];
  readonly sums: ReadonlyMap<string, string>;
}
/** The files that are being laid out by hand: they are read once, not for each move. */
let board: Board | null = null;

async function onBoard(key: string, blob: Blob, name: string, job: JobContext): Promise<Board> {
  if (board?.key === key) return board;
  const sources = await heightSourcesOf(blob, name);
  const parts = await openedParts(sources);
  board = { key, parts, edges: await edgesOf(parts, job), sums: await checksumsOf(sources, job) };
  return board;
}

/** Room for all samples of a raster, shared where the page is isolated; refused with its number where it is too much. */
function roomFor(info: RasterInfo, name: string): StoredSamples {
  const bytes = storedBytes(info);
  if (bytes > MAX_HELD_BYTES) {
    throw new LevelGridError('too-large', {
      file: name,
      found: `${info.width} × ${info.height} samples, ${bytes} bytes decoded`,
      expected: `at most ${MAX_HELD_BYTES} bytes in the browser`,
      remedy: 'Use the command line, which reads in bands.',
    });
  }
  return allocateSamples(info, self.crossOriginIsolated);
}

const worker: JobWorker = {
  open: (id, blob, name, reading, onHeader, stop, report) =>
    outcome('reading the file', async (): Promise<HeldSource> => {
      const job = jobOf(stop, report);
      const opened = await withSums(await openReading(sharedSource(blob, name), reading, job));
      const { info } = opened;
      const samples = roomFor(info, name);
      const shared = self.crossOriginIsolated;
      const arrived = new Int32Array(shared ? new SharedArrayBuffer(4) : new ArrayBuffer(4));
      onHeader(factsOf(name, opened, null), shared ? { samples, rows: arrived } : null);
      const collector = new StatisticsCollector();
      const rows = new RowSampler(info);
      const content = await startContent(opened);
      for await (const band of opened.bands(job)) {
        checkpoint(job);
        samples.set(band.data, band.y * info.width);
        rows.add(band);
        Atomics.store(arrived, 0, band.y + band.rows);
        content.add(band.data);
        collector.add(band);
        job.report?.(band.y + band.rows, info.height);
      }
      const stats = withLook(collector.result(), rows, info);
      const facts = { ...factsOf(name, opened, stats), content: content.digest() };
      // all that is known of how it was opened stays with it; only its samples are at hand now
      held.set(id, { facts, opened: { ...opened, ...memoryRaster(info, samples, opened.lateWarnings) } });
      return { facts, layout: opened.layout ?? null, extremes: extremesOf(samples, info.width, stats), samples };
    }),

  stage: (id, recipe, stop, report) =>
    outcome('doing the steps', () => {
      const source = counted(id);
      return holdStage(recipe, source, (info) => roomFor(info, source.facts.file), jobOf(stop, report));
    }),

  look: (blob, name) => outcome('looking at the file', () => lookAt(sharedSource(blob, name))),

  weigh: (id, recipe) =>
    outcome('measuring the ground', async () => {
      const entered = await enterFit(recipe, counted(id));
      return { facts: entered.facts, ground: await measureEntered(recipe, entered) };
    }),

  ground: (id, recipe, stop, report) =>
    outcome('measuring the ground', () => measureGround(recipe, counted(id), jobOf(stop, report))),

  pack: (id, recipe, threads, stop, report) =>
    outcome('writing the pack', async () => {
      const folder = new BlobFolder();
      pool ??= new PiecePool(pieceThread, threads);
      const pieces = { encode: pool.encode, inFlight: pool.size + 2 };
      const document = await run(recipe, counted(id), folder, { pieces }, jobOf(stop, report));
      return { document, files: folder.files };
    }),

  previews: (blob, layouts, side) =>
    outcome('looking at the file', async () => {
      const [heights = blobSource(blob, 'preview')] = await partsOf(blobSource(blob, 'preview'));
      return Promise.all(layouts.map((layout) => rawPreview(heights, layout, side)));
    }),

  arrange: (blob, name, laid, stop, report) =>
    outcome('looking at the files', async () => {
      const job = jobOf(stop, report);
      if (laid) {
        const { parts, edges, sums } = await onBoard(laid.board, blob, name, job);
        const cellOf = (file: string) => laid.cells.get(file) ?? { column: 0, row: 0 };
        const arranged = byHand(
          parts,
          edges,
          parts.map((p) => cellOf(p.name)),
        );
        return { ...arranged, parts: arranged.parts.map((p) => ({ ...p, sha256: sums.get(p.name) })) };
      }
      const { arrangement } = await openReading(sharedSource(blob, name), {}, job);
      if (arrangement) return arrangement;
      throw new LevelGridError('mosaic', {
        found: 'one height file',
        expected: 'several that make one',
        remedy: 'Bring it in by itself.',
      });
    }),

  pictures: (blob, name, side) =>
    outcome('looking at the files', async () => {
      const found = new Map<string, SmallPicture>();
      for (const part of await openedParts(await heightSourcesOf(blob, name)))
        found.set(part.name, await pictureOf(part.raster, side));
      return found;
    }),

  compare: (blob, name, stop, report) =>
    outcome('comparing the files', async () =>
      compare(await openedParts(await heightSourcesOf(blob, name)), jobOf(stop, report)),
    ),

  zip: (files) =>
    outcome('writing the zip', async () =>
      new Response(zipOf([...files].map(([name, blob]) => blobSource(blob, name)))).blob(),
    ),

  unzip: (blob, name) =>
    outcome('reading the zip', async () => {
      if (blob.size > MAX_HELD_BYTES)
        throw new LevelGridError('too-large', {
          file: name,
          found: `${blob.size} bytes`,
          expected: `at most ${MAX_HELD_BYTES} bytes in the browser`,
          remedy: 'Unpack it, and prove the folder on the command line.',
        });
      const files = packOrHeights(new Uint8Array(await blob.arrayBuffer()), name);
      return new Map([...files].map(([n, bytes]) => [n, new Blob([bytes as Uint8Array<ArrayBuffer>])]));
    }),

  prove: (id, files, typed, stop, report) =>
    outcome('proving the pack', async () =>
      prove(
        {
          file: (name) => {
            const blob = files.get(name);
            return blob ? sharedSource(blob, name) : null;
          },
          ...(id === null ? {} : { reference: counted(id), maps: true }),
          typed,
          others: [...files.keys()],
        },
        jobOf(stop, report),
      ),
    ),

  close: (id) => {
    held.delete(id);
  },
};

Comlink.expose(worker);

if (ByteRing.possible) readyInflateThread();
