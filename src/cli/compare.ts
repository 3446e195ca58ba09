import { formatLength, formatNumber, formatShort, LevelGridError } from '../core/base';
import { compare, type Candidate, type Comparison } from '../core/compare';
import { isHeightName } from '../core/formats';
import { archivedSources, heightsOfZip, openReading } from '../core/run';
import { fromCaller, heightSource, isZip } from './files';
import { table, withProgress, type CommandResult } from './output';

/** Data sets of the same ground against each other, also several out of one archive. */
export async function compareCommand(files: readonly string[]): Promise<CommandResult> {
  const candidates: Candidate[] = [];
  for (const file of files) {
    const source = await heightSource(fromCaller(file));
    const inside = (await isZip(source))
      ? [...archivedSources(heightsOfZip(await source.read(0, source.size), source.name)).values()]
      : [source];
    for (const one of inside.filter((s) => isHeightName(s.name)))
      candidates.push({ name: one.name, raster: await openReading(one, {}) });
  }
  if (candidates.length < 2)
    throw new LevelGridError('usage', {
      found: `${candidates.length} data sets`,
      expected: 'two at least, to compare',
      remedy: 'Name more files, or an archive that holds several.',
    });
  const found = await withProgress('Comparing', (job) => compare(candidates, job));
  return {
    json: { ...found, differences: found.differences.map(({ map: _, ...d }) => d) },
    text: comparisonText(found),
    fine: true,
  };
}

function comparisonText({ ranked, differences, made }: Comparison): string {
  return [
    table(
      ['', 'Data set', 'Samples', 'Apart', 'Finest waves', 'Voids', 'Lowest', 'Highest'],
      ranked.map((f, i) => [
        `${i + 1}.`,
        f.name,
        `${f.width} × ${f.height}`,
        f.spacing === null ? '–' : formatLength(f.spacing),
        f.detail !== null ? formatLength(f.detail) : f.wave === null ? '–' : `${formatShort(f.wave, 1)} samples`,
        formatNumber(f.voids, 0),
        f.low === null ? '–' : formatShort(f.low, 2),
        f.high === null ? '–' : formatShort(f.high, 2),
      ]),
    ),
    '',
    ...ranked.map((f) => `${f.name}: ${f.reasons.join('; ')}.`),
    ...differences.map(
      (d) =>
        `${d.of[1]} against ${d.of[0]}${d.fitted ? ' (laid on it by a factor and a shift)' : ''}: ${formatShort(d.mean, 2)} on the average, ${formatShort(d.largest, 2)} at most, ${formatShort(100 * d.at[0], 0)} % east and ${formatShort(100 * d.at[1], 0)} % south; the same at ${formatShort(100 * d.same, 1)} % of the places.`,
    ),
    ...(made
      ? [`${made.name} is made of ${made.of.map((p) => `${formatShort(100 * p.share, 1)} % ${p.name}`).join(', ')}.`]
      : []),
  ].join('\n');
}
