import {
  asLevelGridError,
  checkpoint,
  formatLength,
  formatShort,
  LevelGridError,
  partOf,
  portableSha256,
  type ByteSource,
  type Hasher,
  type JobContext,
} from '../base';
import { plan, planDocumentSchema, type PlanDocument } from '../plan';
import { documentError, type Recipe } from '../recipe';
import { countSource, fittedGround, spanOf, type CountedSource } from '../run';
import { groundStatistics, heightsOf, type GroundStatistics } from '../raster';
import { codeRows } from './code-rows';
import { decoderFor, type TargetDecoder, type TypedValues } from './decoders';
import { ErrorMap, ErrorMeter, LineFit, type ErrorFigures } from './error-meter';
import { GroundErrorMeter } from './ground-error';
import { explainTile, SparseTile } from './orientation';
import { deriveTruth, type Truth } from './truth';
import type { Proof, ProofCheck, ProofMaps, SpotProof } from './types';
import { valueChecks } from './values';

export interface ProofInput {
  /** The document as it stands in the pack. */
  readonly document: PlanDocument;
  readonly recipe: Recipe;
  /** The written file of that name; null where it is missing. */
  readonly file: (name: string) => ByteSource | null | Promise<ByteSource | null>;
  /** The source, for the truth; without it the check spots of the pack are the truth. */
  readonly reference?: ByteSource | CountedSource;
  /** Values typed otherwise than the card says. */
  readonly typed?: TypedValues;
  readonly ignoreChecksums?: boolean;
  readonly hasher?: () => Hasher;
  /** Collects the difference view. */
  readonly maps?: boolean;
  /** Extra files seen beside those of the document. */
  readonly others?: readonly string[];
}

/** Checks `import.json` as it comes from outside. */
export function parsePlanDocument(value: unknown, file: string): PlanDocument {
  const result = planDocumentSchema.safeParse(value);
  if (result.success) return result.data;
  throw documentError(result.error, 'pack document', file);
}

interface State {
  readonly checks: ProofCheck[];
  readonly meter: ErrorMeter;
  readonly line: LineFit;
  clippedLow: number;
  clippedHigh: number;
  seamsCompared: number;
  seamsDifferent: number;
}

/**
 * Reads the written files back as the target would, with the values that are typed in, and compares with the truth.
 * Streams; holds a row of each open tile.
 */
export async function prove(input: ProofInput, job?: JobContext): Promise<{ proof: Proof; maps: ProofMaps | null }> {
  const { document, recipe, typed = {} } = input;
  const checks: ProofCheck[] = [];
  const values: Record<string, number> = {};
  for (const row of document.card) values[row.id] = row.value;
  for (const [id, value] of Object.entries(typed)) {
    if (!(id in values)) {
      throw new LevelGridError('usage', {
        found: `"${id}" as a typed value`,
        expected: `one of ${Object.keys(values).join(', ')}`,
        remedy: 'Name a value of the import card.',
      });
    }
    values[id] = value;
  }
  const decoder = decoderFor(document.target, values);
  const files = await checkFiles(input, checks, partOf(job, 0, 0.15));
  const { reference } = input;
  const counted = !reference
    ? null
    : 'facts' in reference
      ? reference
      : await countSource(reference, recipe.source.raw, partOf(job, 0.15, 0.3));
  let truth: Truth | null = null;
  let ground: GroundStatistics | null = null;
  const fitted = counted ? plan(recipe, counted.facts, null) : null;
  if (counted && fitted) {
    const { work } = fitted;
    ground = await groundStatistics(
      fittedGround(counted.opened, recipe, work),
      spanOf(counted, work.datum),
      null,
      partOf(job, 0.3, 0.5),
    );
    truth = counted.facts.stats
      ? deriveTruth(recipe, counted.facts.info, counted.facts.stats, work.datum, ground)
      : null;
  }
  const step = truth?.step ?? document.height.step;
  const reach = truth
    ? Math.max(Math.abs(truth.low), Math.abs(truth.high), truth.high - truth.low)
    : Math.max(Math.abs(document.height.low), Math.abs(document.height.high));
  const budget = {
    halfStep: step / 2,
    typing: Math.min(document.typing.budget, step / 10),
    // a target computes in single precision: a few units in the last place of the largest height
    arithmetic: Math.min(Math.max(step / 10, 0.003), reach * 4 * 2 ** -23),
  };
  const limit = budget.halfStep + budget.typing + budget.arithmetic;
  const state: State = {
    checks,
    meter: new ErrorMeter(),
    line: new LineFit(),
    clippedLow: 0,
    clippedHigh: 0,
    seamsCompared: 0,
    seamsDifferent: 0,
  };
  const spotCodes = new Map<string, number>();
  let maps: ProofMaps | null = null;
  let groundError: ErrorFigures | null = null;
  if (files.readable) {
    const compared = await compareFiles(
      input,
      files.sources,
      decoder,
      truth,
      counted,
      fitted,
      state,
      limit,
      spotCodes,
      partOf(job, 0.5, 1),
    );
    maps = compared.maps;
    groundError = compared.groundError;
  }
  const spots = document.spots.map((spot): SpotProof => {
    const foundCode = spotCodes.get(spot.id) ?? null;
    return {
      id: spot.id,
      label: spot.label,
      file: spot.file,
      expectedCode: spot.code,
      foundCode,
      expected: spot.elevation === null ? null : spot.elevation - (truth?.zero ?? document.height.zero),
      shown: foundCode === null ? null : decoder.heightOf(foundCode),
    };
  });
  const meter = truth ? state.meter : spotMeter(spots, limit, document);
  const { wrong, found } = valueChecks(document, values, decoder, truth, counted?.facts.info ?? null);
  checks.push(...found);
  const figures = meter.figures();
  if (files.readable) heightCheck(checks, figures, limit, budget, meter.samples, state, wrong);
  spotCheck(checks, spots, limit, document);
  if (document.files.length > 1 && document.tiles.edges === 'shared' && files.readable) {
    checks.push({
      id: 'seams',
      state: state.seamsDifferent > 0 ? 'fault' : 'holds',
      message:
        state.seamsDifferent > 0
          ? `${state.seamsDifferent} of ${state.seamsCompared} vertices on shared edges differ between neighbours.`
          : `All ${state.seamsCompared} vertices on shared edges are the same in both tiles.`,
    });
  }
  if (truth) {
    const count = state.clippedLow + state.clippedHigh;
    checks.push({
      id: 'clipped',
      state: count > 0 ? 'caution' : 'holds',
      message:
        count > 0
          ? `${state.clippedLow} samples below and ${state.clippedHigh} above the height range are clipped.`
          : 'No sample is clipped.',
    });
  }
  const proof: Proof = {
    holds: checks.every((c) => c.state === 'holds' || c.state === 'caution'),
    step,
    encodingError: { ...figures, budget, samples: meter.samples, against: truth ? 'fitted ground' : 'check spots' },
    groundError,
    clipped: truth ? { low: state.clippedLow, high: state.clippedHigh } : null,
    checks,
    wrongValues: wrong,
    spots,
    seams: { compared: state.seamsCompared, different: state.seamsDifferent },
    rim: fitted?.work.geometry.rim ?? null,
  };
  return { proof, maps };
}

/** Presence and checksums of every file of the document. */
async function checkFiles(
  input: ProofInput,
  checks: ProofCheck[],
  job: JobContext,
): Promise<{ sources: ByteSource[]; readable: boolean }> {
  const { document, hasher = portableSha256 } = input;
  const sources: ByteSource[] = [];
  const missing: string[] = [];
  const changed: string[] = [];
  for (const [i, file] of document.files.entries()) {
    checkpoint(job);
    const source = await input.file(file.name);
    if (!source) {
      missing.push(file.name);
      continue;
    }
    sources.push(source);
    if (file.sha256 === undefined) continue;
    const hash = hasher();
    for (let at = 0; at < source.size; at += 1 << 20)
      hash.update(await source.read(at, Math.min(1 << 20, source.size - at)));
    if (hash.digest() !== file.sha256) changed.push(file.name);
    job.report?.(i + 1, document.files.length);
  }
  if (missing.length > 0) {
    checks.push({
      id: 'files',
      state: 'fault',
      message: `${missing.length === 1 ? 'A file is' : `${missing.length} files are`} missing: ${missing.join(', ')}.`,
    });
  } else
    checks.push({
      id: 'files',
      state: 'holds',
      message: `${document.files.length === 1 ? 'The file is' : `All ${document.files.length} files are`} there.`,
    });
  const surplus = (input.others ?? []).filter(
    (name) => /\.(png|raw)$/i.test(name) && !document.files.some((f) => f.name === name),
  );
  if (surplus.length > 0)
    checks.push({ id: 'surplus', state: 'caution', message: `Not part of this pack: ${surplus.join(', ')}.` });
  if (changed.length > 0) {
    checks.push({
      id: 'checksums',
      state: input.ignoreChecksums ? 'caution' : 'fault',
      message: `${changed.join(', ')} ${changed.length === 1 ? 'is' : 'are'} not as written: the checksum differs.`,
    });
  } else if (document.files.some((f) => f.sha256 !== undefined))
    checks.push({ id: 'checksums', state: 'holds', message: 'Every file has the checksum it was written with.' });
  return { sources, readable: missing.length === 0 };
}

async function compareFiles(
  input: ProofInput,
  sources: readonly ByteSource[],
  decoder: TargetDecoder,
  truth: Truth | null,
  counted: Awaited<ReturnType<typeof countSource>> | null,
  fitted: ReturnType<typeof plan> | null,
  state: State,
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
  // a sample is clipped where its own height rounds to a code that does not exist
  const lowest = truth ? truth.low - truth.zero - truth.step / 2 : -Infinity;
  const highest = truth ? truth.high - truth.zero + truth.step / 2 : Infinity;

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
    const start = encodingMap?.rowStart(y) ?? 0;
    let max = 0;
    let sum = 0;
    let squares = 0;
    let count = 0;
    for (let x = 0, at = w.x; x < w.width; x++, at++) {
      const sample = ground[at]!;
      if (sample !== sample) continue;
      const expected = sample * unit + shift;
      const code = codes[x]!;
      const shown = heights[code]!;
      const error = shown - expected;
      if (code === 0 && expected < lowest) {
        state.clippedLow++;
        continue;
      }
      if (code === 65535 && expected >= highest) {
        state.clippedHigh++;
        continue;
      }
      const size = Math.abs(error);
      if (size > max) max = size;
      sum += size;
      squares += size * size;
      count++;
      if ((x & 7) === 0) state.line.add(expected, shown);
      if (encodingMap) {
        const cell = start + encodingMap.columnOf(at);
        if (size > encodingMap.cells[cell]!) encodingMap.cells[cell] = size;
      }
    }
    state.meter.addRow(max, sum, squares, count);
    if (max > worst[i]!) worst[i] = max;
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
      groundError = meter.meter.figures();
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

function spotMeter(spots: readonly SpotProof[], limit: number, document: PlanDocument): ErrorMeter {
  const meter = new ErrorMeter();
  for (const { shown, expected, expectedCode } of spots) {
    if (shown === null || expected === null) continue;
    const error = Math.abs(shown - expected);
    if (clippedSpot(expectedCode, shown, expected, limit, document)) continue;
    meter.addRow(error, error, error * error, 1);
  }
  return meter;
}

/** A spot outside the height range shows the end of the range, not its own height. */
function clippedSpot(
  code: number | null,
  shown: number,
  expected: number,
  limit: number,
  document: PlanDocument,
): boolean {
  const lowest = document.height.low - document.height.zero;
  const highest = document.height.high - document.height.zero;
  return (
    (code === 0 && expected < lowest && shown - expected > limit) ||
    (code === 65535 && expected > highest && expected - shown > limit)
  );
}

function heightCheck(
  checks: ProofCheck[],
  figures: ErrorFigures,
  limit: number,
  budget: Proof['encodingError']['budget'],
  samples: number,
  state: State,
  wrong: readonly string[],
): void {
  const parts = `${formatLength(budget.halfStep)} half step + ${formatLength(budget.typing)} typing + ${formatLength(budget.arithmetic)} arithmetic`;
  const clippedMost = state.clippedLow + state.clippedHigh > samples;
  if (figures.max <= limit && !clippedMost) {
    checks.push({
      id: 'heights',
      state: 'holds',
      message: `The largest encoding error is ${formatLength(figures.max)}, within ${formatLength(limit)} (${parts}).`,
    });
    return;
  }
  const line = state.line.result();
  const trend =
    line && !wrong.length && Math.abs(line.slope - 1) > 1e-4
      ? ` Heights are shown ${formatShort(line.slope, 4)} times as tall as they are.`
      : '';
  const blame = wrong.length > 0 ? ` Wrong on the card: ${wrong.join(', ')}.` : trend;
  checks.push({
    id: 'heights',
    state: 'fault',
    message: clippedMost
      ? `${state.clippedLow + state.clippedHigh} samples lie beyond the heights that the files can show.${blame}`
      : `The largest encoding error is ${formatLength(figures.max)}, above ${formatLength(limit)} (${parts}).${blame}`,
  });
}

function spotCheck(checks: ProofCheck[], spots: readonly SpotProof[], limit: number, document: PlanDocument): void {
  const off = spots.filter(
    (s) =>
      s.shown !== null &&
      s.expected !== null &&
      Math.abs(s.shown - s.expected) > limit &&
      !clippedSpot(s.expectedCode, s.shown, s.expected, limit, document),
  );
  const codes = spots.filter((s) => s.foundCode !== null && s.foundCode !== s.expectedCode);
  const bad = new Set([...off, ...codes]);
  const names = [...bad].map((s) => s.label.toLowerCase()).join(', ');
  if (bad.size > 0)
    checks.push({
      id: 'spots',
      state: 'fault',
      message: `${bad.size} of ${spots.length} check spots differ: ${names}.`,
    });
  else if (spots.some((s) => s.foundCode !== null))
    checks.push({ id: 'spots', state: 'holds', message: `All ${spots.length} check spots show their height.` });
}

/** The documents of a pack, read and checked. */
export async function readPackText(source: ByteSource | null, name: string): Promise<string> {
  const MAX = 64 * 2 ** 20;
  if (!source || source.size > MAX) {
    throw new LevelGridError('not-found', {
      file: name,
      found: source ? `${source.size} bytes` : 'no such file in the pack',
      expected: 'the documents of a pack: import.json and recipe.json',
      remedy: 'Point at a folder that a run has written.',
    });
  }
  try {
    return new TextDecoder().decode((await source.read(0, source.size)).slice());
  } catch (reason) {
    throw asLevelGridError(reason, 'reading the pack', name);
  }
}
