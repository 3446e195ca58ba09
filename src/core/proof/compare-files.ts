import { checkpoint, LevelGridError, type ByteSource, type JobContext } from '../base';
import type { Plan, PlanDocument } from '../plan';
import { heightsOf } from '../raster';
import { fittedGround, type CountedSource } from '../run';
import { codeRows } from './code-rows';
import type { TargetDecoder } from './decoders';
import { ErrorMap, type ErrorFigures } from './error-meter';
import { GroundErrorMeter } from './ground-error';
import { explainTile, SparseTile } from './orientation';
import { RowComparison } from './compare-row';
import type { Truth } from './truth';
import type { Findings, ProofInput, ProofMaps } from './types';

/** Reads all files side by side, row by row of the whole, and compares them with the fitted ground and each other. */
export async function compareFiles(
  input: ProofInput,
  sources: readonly ByteSource[],
  decoder: TargetDecoder,
  truth: Truth | null,
  counted: CountedSource | null,
  fitted: Plan | null,
  state: Findings,
  limit: number,
  spotCodes: Map<string, number>,
  job: JobContext,
): Promise<{ maps: ProofMaps | null; groundError: ErrorFigures | null }> {
  const { document, recipe } = input;
  const { files } = document;
  const heights = Float64Array.from({ length: 65536 }, (_, code) => decoder.heightOf(code));
  const shift = truth ? truth.offset - truth.zero : 0;
  const unit = truth?.unit ?? 0;
  const edgesShared = document.tiles.edges === 'shared';
  const readers = files.map((file, i) => codeRows(sources[i] as ByteSource, file));
  const sparse = files.map((f) => new SparseTile(f.window));
  const worst = new Float64Array(files.length);
  const encodingMap = input.maps ? new ErrorMap(document.fit.width, document.fit.height) : null;
  const groundMap = input.maps ? new ErrorMap(document.fit.width, document.fit.height) : null;
  const spotsByRow = new Map<number, PlanDocument['spots']>();
  for (const spot of document.spots) spotsByRow.set(spot.y, [...(spotsByRow.get(spot.y) ?? []), spot]);
  const pulled = new Array<Uint16Array | null>(files.length).fill(null);
  const rows = truth ? new RowComparison(heights, truth, document.fit.width, encodingMap, state) : null;

  /** One row of the whole: every tile that crosses it delivers its row. */
  const row = async (y: number, ground: Float32Array | null): Promise<void> => {
    const crossing: number[] = [];
    for (let i = 0; i < files.length; i++) {
      const { window: w } = files[i]!;
      if (y < w.y || y >= w.y + w.height) continue;
      const { value, done } = await readers[i]!.next();
      if (done)
        throw new LevelGridError('pack-file', {
          file: files[i]!.name,
          found: `${y - w.y} rows`,
          expected: `${w.height} rows`,
          remedy: 'Make the pack again.',
        });
      pulled[i] = value;
      crossing.push(i);
      if (ground && truth) compareRow(i, y, value, ground);
      for (const spot of spotsByRow.get(y) ?? [])
        if (spot.file === files[i]!.name) spotCodes.set(spot.id, value[spot.x - w.x]!);
    }
    if (edgesShared && crossing.length > 1) compareSeams(crossing);
  };

  const compareRow = (i: number, y: number, codes: Uint16Array, ground: Float32Array): void => {
    const { window: w } = files[i]!;
    const worstOfRow = rows!.compare(y, w.x, codes, ground);
    if (worstOfRow > worst[i]!) worst[i] = worstOfRow;
    sparse[i]!.take(y - w.y, ground, w.x, codes, unit, shift);
  };

  const compareSeams = (crossing: readonly number[]): void => {
    for (const a of crossing) {
      for (const b of crossing) {
        const left = files[a]!.window;
        const right = files[b]!.window;
        if (a === b || left.x > right.x || (left.x === right.x && left.y >= right.y)) continue;
        const from = Math.max(left.x, right.x);
        const to = Math.min(left.x + left.width, right.x + right.width);
        for (let x = from; x < to; x++) {
          state.seamsCompared++;
          if (pulled[a]![x - left.x] !== pulled[b]![x - right.x]) state.seamsDifferent++;
        }
      }
    }
  };

  let groundError: ErrorFigures | null = null;
  if (truth && counted && fitted) {
    const { work } = fitted;
    const meter = new GroundErrorMeter(heightsOf(counted.opened, work.datum), work.geometry, unit, groundMap);
    try {
      for await (const band of fittedGround(counted.opened, recipe, work).bands(job)) {
        checkpoint(job);
        for (let r = 0; r < band.rows; r++)
          await row(band.y + r, band.data.subarray(r * work.geometry.width, (r + 1) * work.geometry.width));
        await meter.add(band);
        job.report?.(band.y + band.rows, work.geometry.height);
      }
      groundError = meter.finish();
      rows?.finish();
    } finally {
      await meter.close();
    }
  } else {
    for (let y = 0; y < document.fit.height; y++) {
      if (y % 64 === 0) {
        checkpoint(job);
        job.report?.(y, document.fit.height);
      }
      await row(y, null);
    }
  }
  // whatever stands behind the last row (a damaged end) is an error of the file
  for (const reader of readers) await reader.next();
  const names = files.map((f) => f.name);
  for (let i = 0; i < files.length; i++) {
    if (!(worst[i]! > limit)) continue;
    const why = explainTile(i, sparse, names, (code) => heights[code]!);
    if (why)
      state.checks.push({
        id: 'orientation',
        state: 'fault',
        message: `${names[i]!} does not lie where it should: ${why}.`,
      });
  }
  if (truth && !state.checks.some((c) => c.id === 'orientation')) {
    state.checks.push({ id: 'orientation', state: 'holds', message: 'No file is turned, mirrored or exchanged.' });
  }
  const maps =
    encodingMap && groundMap
      ? { columns: encodingMap.columns, rows: encodingMap.rows, encoding: encodingMap.cells, ground: groundMap.cells }
      : null;
  return { maps, groundError };
}
