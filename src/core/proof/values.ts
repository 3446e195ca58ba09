import { formatLength, formatNumber } from '../base';
import type { PlanDocument } from '../plan';
import type { RasterInfo } from '../raster';
import type { TargetDecoder, TypedValues } from './decoders';
import type { ProofCheck } from './types';
import type { Truth } from './truth';

/**
 * Holds every typed value against what it should be: from the truth where there is a reference, from the pack's own
 * unrounded value otherwise. Heights are also judged by what the files show; this says which value is to blame.
 */
export function valueChecks(
  document: PlanDocument,
  values: TypedValues,
  decoder: TargetDecoder,
  truth: Truth | null,
  info: RasterInfo | null,
): { wrong: string[]; found: ProofCheck[] } {
  const wrong: string[] = [];
  const found: ProofCheck[] = [];
  const step = truth?.step ?? document.height.step;
  const expected = expectedValues(document, truth, info);
  for (const row of document.card) {
    const should = expected[row.id] ?? row.exact;
    const value = values[row.id] ?? row.value;
    // a value that is nearer to the truth than the card's own digits is right
    const slack = Math.max(0.5 * 10 ** -row.digits * 1.001, slackOf(row.id, step, document));
    if (Math.abs(value - should) <= slack) continue;
    wrong.push(row.id);
    found.push({
      id: `value-${row.id}`,
      state: 'fault',
      message: `${row.label} is typed as ${formatNumber(value, row.digits)}${row.unit && ` ${row.unit}`}; it should be ${formatNumber(should, row.digits)}${consequence(row.id, document, decoder, truth)}.`,
    });
  }
  if (wrong.length === 0)
    found.push({ id: 'values', state: 'holds', message: `All ${document.card.length} values of the card are right.` });
  layoutCheck(document, decoder, found);
  return { wrong, found };
}

/** What the values should be, from the truth alone. */
function expectedValues(
  document: PlanDocument,
  truth: Truth | null,
  info: RasterInfo | null,
): Readonly<Record<string, number>> {
  if (!truth || !info) return {};
  const { width, height, window } = { ...document.fit, window: document.files[0]?.window };
  const spacingX = truth.extentX / (width - 1);
  const spacingY = truth.extentY / (height - 1);
  const lowAtCode0 = truth.low - truth.zero;
  if (document.target === 'component-grid') {
    // 32768 codes above the lowest lies the middle code, and there the offset
    return {
      groundScaleX: spacingX * 100,
      groundScaleY: spacingY * 100,
      heightScale: truth.step * 12800,
      heightOffset: (lowAtCode0 + 32768 * truth.step) * 100,
      eastOffset: truth.east * 100,
      northOffset: truth.north * 100,
    };
  }
  return {
    extentX: spacingX * ((window?.width ?? width) - 1),
    extentY: spacingY * ((window?.height ?? height) - 1),
    heightRange: truth.high - truth.low,
    baseElevation: lowAtCode0,
  };
}

/** Room beyond the card's own rounding, so that a truth computed in another order is no fault. */
function slackOf(id: string, step: number, document: PlanDocument): number {
  const spacing = Math.min(document.fit.spacing.x, document.fit.spacing.y);
  switch (id) {
    case 'heightScale':
      return step / 20 / 2.56;
    case 'heightOffset':
      return (step / 20) * 100;
    case 'heightRange':
    case 'baseElevation':
      return step / 20;
    case 'groundScaleX':
    case 'groundScaleY':
      return spacing / document.fit.width;
    case 'extentX':
    case 'extentY':
      return spacing / 50;
    case 'eastOffset':
    case 'northOffset':
      return 1;
    default:
      return 0;
  }
}

/** What a wrong ground value does, in metres at the far corner. */
function consequence(id: string, document: PlanDocument, decoder: TargetDecoder, truth: Truth | null): string {
  if (!truth) return '';
  const tile = document.files[0]?.window;
  if (!tile) return '';
  const share = (n: number, whole: number): number => (n - 1) / (whole - 1);
  if (id === 'groundScaleX' || id === 'extentX') {
    return `: the far edge lies ${formatLength(Math.abs(decoder.extentX(tile.width) - truth.extentX * share(tile.width, document.fit.width)))} off`;
  }
  if (id === 'groundScaleY' || id === 'extentY') {
    return `: the far edge lies ${formatLength(Math.abs(decoder.extentY(tile.height) - truth.extentY * share(tile.height, document.fit.height)))} off`;
  }
  return '';
}

function layoutCheck(document: PlanDocument, decoder: TargetDecoder, found: ProofCheck[]): void {
  const file = document.files[0];
  const x = decoder.verticesX();
  const y = decoder.verticesY();
  if (!file || x === null || y === null) return;
  const fits = x === file.width && y === file.height;
  found.push({
    id: 'layout',
    state: fits ? 'holds' : 'fault',
    message: fits
      ? `The typed layout makes ${x} × ${y} vertices, as many as the file holds.`
      : `The typed layout makes ${x} × ${y} vertices; the file holds ${file.width} × ${file.height}.`,
  });
}
