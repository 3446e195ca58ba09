'use client';
import { useEffect, useState } from 'react';
import { formatBytes, formatNumber, formatShort } from '@/core/base';
import { formatName, isCompanion } from '@/core/formats';
import type { SourceFacts } from '@/core/plan';
import { groundSpacing, highestStored, lowestStored, type MeshFacts } from '@/core/raster';
import type { SmallPicture } from '@/core/view';
import { useSession, workers } from '@/state';
import { Thumbnail } from './thumbnail';
import { UNIT_WORDS } from './unit-words';

const TYPES = { uint: 'unsigned', int: 'signed', float: 'float' } as const;

type Row = readonly [name: string, value: string];

/** Depth and kind as they stand in the file. */
function depthWords({ own, bitDepth, sampleType }: SourceFacts['info']): string {
  const stored = own ?? { bitDepth, sampleType };
  return `${stored.bitDepth} bit ${TYPES[stored.sampleType]}`;
}

/** What the header says, at once. */
function headerRows({ file, info }: SourceFacts): Row[] {
  const { format, width, height, byteOrder, channels, channel, pages = 1, mesh } = info;
  if (mesh) return [['File', file], ...meshRows(formatName(format), mesh)];
  return [
    ['File', file],
    ['Holds', `${formatName(format)}, ${width} × ${height}`],
    ['Depth', depthWords(info)],
    ...(byteOrder ? ([['Byte order', `${byteOrder}-endian`]] as Row[]) : []),
    ...(channels > 1 || channel !== undefined
      ? ([['Channel', `${channel ?? 'the first'}${channels > 1 ? ` of ${channels}` : ''}`]] as Row[])
      : []),
    ...(pages > 1 ? ([['Pictures', `${pages}, the first is read`]] as Row[]) : []),
  ];
}

/** What a mesh holds, and what a raster can't hold of it. */
function meshRows(format: string, { vertices, triangles, overhangs, outside, options }: MeshFacts): Row[] {
  return [
    ['Holds', `${format}, ${formatNumber(triangles, 0)} triangles`],
    ['Vertices', formatNumber(vertices, 0)],
    ['Overhangs', overhangs === 0 ? 'none' : `over ${formatNumber(overhangs, 0)} samples`],
    ...(options.volume ? ([['Beyond the volume', `${formatNumber(outside, 0)} triangles`]] as Row[]) : []),
  ];
}

/** Where its samples lie and what they measure, as far as the file says so. */
function groundRows({ info }: SourceFacts): Row[] {
  const { unit, registration, georeference } = info;
  const ground = groundSpacing(info);
  const alike = ground !== null && Math.abs(ground.east / ground.north - 1) <= 1e-3;
  return [
    ...(unit ? ([['Heights in', UNIT_WORDS[unit]]] as Row[]) : []),
    ...(info.codes
      ? ([
          ['Codes stand for', `${formatShort(info.codes.low, 2)} to ${formatShort(info.codes.high, 2)} m`],
          ...(info.codes.stretch === 1
            ? []
            : [['Stretched', `× ${formatShort(info.codes.stretch, 4)}, undone`] as const]),
          ['As said by', info.codes.from],
        ] satisfies Row[])
      : []),
    ...(info.stretched === undefined ? [] : ([['Stretched', `× ${formatShort(info.stretched, 4)}, undone`]] as Row[])),
    ...(ground
      ? ([
          [
            'Spacing',
            alike
              ? `${formatShort(ground.north, 4)} m`
              : `${formatShort(ground.east, 2)} m east, ${formatShort(ground.north, 2)} m north`,
          ],
        ] as Row[])
      : []),
    ...(info.noted && info.codes?.from !== info.noted.from ? ([['Note', info.noted.from]] as Row[]) : []),
    ...(registration && !info.mesh ? ([['Samples are', registration === 'cell' ? 'cells' : 'points']] as Row[]) : []),
    ...(georeference?.crs ? ([['CRS', georeference.crs]] as Row[]) : []),
    ...(georeference && ground
      ? ([
          [
            'North-west',
            `${formatShort(georeference.x, 4)}, ${formatShort(georeference.y, 4)}${georeference.degrees ? '°' : ''}`,
          ],
        ] as Row[])
      : []),
  ];
}

/** What only the samples show; `counting` stands there until they have been read. */
function sampleRows({ info, stats }: SourceFacts, counting: string): Row[] {
  const { noData } = info;
  const step = stats?.codeStep ?? null;
  return [
    ['Lowest, highest', stats ? `${formatShort(stats.min ?? 0)}, ${formatShort(stats.max ?? 0)}` : counting],
    [
      info.sampleType === 'float' ? 'Different values' : 'Different codes',
      stats
        ? `${stats.distinctMore ? 'more than ' : ''}${formatNumber(stats.distinctCodes, 0)}${step !== null && step > 1 ? `, ${formatNumber(step, 0)} apart` : ''}`
        : counting,
    ],
    ...(stats && (stats.voids > 0 || noData !== undefined)
      ? ([
          [
            'Voids',
            `${formatNumber(stats.voids, 0)}${noData !== undefined && Number.isFinite(noData) ? `, stored as ${String(noData).replace('-', '−')}` : ''}`,
          ],
        ] as Row[])
      : []),
  ];
}

/** Which files it was read from, how large they are, and when they were saved. */
function fileRows({ files = [] }: SourceFacts, bytes: number | null, modified: number): Row[] {
  const heights = files.filter((f) => !isCompanion(f.name));
  const own = heights.length > 0 ? heights.reduce((sum, f) => sum + f.size, 0) : bytes;
  const beside = files.filter((f) => isCompanion(f.name)).map((f) => f.name);
  return [
    ...(heights.length > 1 ? ([['Made of', `${heights.length} files`]] as Row[]) : []),
    ...(beside.length > 0 ? ([['With', beside.join(', ')]] as Row[]) : []),
    ...(own === null ? [] : ([['Size', formatBytes(own)]] as Row[])),
    ...(modified > 0 ? ([['Saved', WHEN.format(modified)]] as Row[]) : []),
  ];
}

const WHEN = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

/** Pixels along the longer side of the picture on the card. */
const PICTURE = 88;

/** The ground in small; null until it has been read. */
function usePicture(): SmallPicture | null {
  const sourceKey = useSession((s) => s.sourceKey);
  const there = useSession((s) => s.held && s.arrived === null);
  const [found, setFound] = useState<{ key: string; picture: SmallPicture | null } | null>(null);
  useEffect(() => {
    if (!there || sourceKey === null) return;
    let wanted = true;
    void workers()
      .thumbnail(sourceKey, PICTURE)
      .then((picture) => {
        if (wanted) setFound({ key: sourceKey, picture });
      });
    return () => {
      wanted = false;
    };
  }, [there, sourceKey]);
  return found?.key === sourceKey ? found.picture : null;
}

/** The picture of the ground, and how far it had to be stretched to be seen. */
function Picture({ facts: { info, stats } }: { facts: SourceFacts }) {
  const picture = usePicture();
  if (!picture || !stats || stats.min === null || stats.max === null) return null;
  const top = highestStored(info);
  const codes = info.sampleType !== 'float';
  const share = codes ? (stats.max - stats.min) / (top - lowestStored(info)) : 1;
  return (
    <div className="flex gap-3 items-start border-t border-rule pt-2">
      <Thumbnail preview={picture} />
      <p className="text-[13px] leading-[17px] text-quiet">
        Dark is the lowest, light the highest
        {codes && share < 0.999
          ? `: stretched, the file uses ${formatShort(Math.max(0.01, share * 100), share < 0.1 ? 2 : 0)} % of its codes${share < 0.15 ? ' and looks nearly one colour elsewhere' : ''}.`
          : '.'}
      </p>
    </div>
  );
}

/** The card of a source: what the file really holds. `arrived`: rows read so far, null once all are. */
export function SourceCard({ facts }: { facts: SourceFacts }) {
  const bytes = useSession((s) => s.source?.size ?? null);
  const arrived = useSession((s) => s.arrived);
  const modified = useSession((s) => s.origin?.modified ?? 0);
  const counting = `counting, ${Math.round((100 * (arrived ?? 0)) / facts.info.height)} %`;
  const rows = [
    ...headerRows(facts),
    ...groundRows(facts),
    ...sampleRows(facts, counting),
    ...fileRows(facts, bytes, modified),
  ];
  return (
    <div className="flex flex-col gap-2">
      <Picture facts={facts} />
      <dl aria-label="What the file holds" className="grid grid-cols-[auto_1fr] gap-x-3 border-y border-rule py-2">
        {rows.map(([k, v]) => (
          <div key={k} className="contents">
            <dt className="text-quiet">{k}</dt>
            <dd className="num text-[13px] leading-[17px] text-right break-words min-w-0">{v}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
