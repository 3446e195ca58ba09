import { memorySource, sideBySide } from '../base';
import { freshRecipe } from '../edits';
import { memoryRaster, type RasterInfo } from '../raster';
import { readNote } from './read';
import { noteBeside, noted } from '.';

const note = (name: string, text: string) => memorySource(name, new TextEncoder().encode(text));

test.each([
  ['Lowest 1 310.5 m, highest 1 874 m.', { low: 1310.5, high: 1874 }],
  ['Min elevation: 1310\r\nMax elevation: 1,874.25', { low: 1310, high: 1874.25 }],
  ['Elevation range: 1310 m - 1874 m', { low: 1310, high: 1874 }],
  ['heights from −12.5 to 480 m', { low: -12.5, high: 480 }],
  ['heights 0.2–1.9 km', { low: 200, high: 1900 }],
  ['black = 0 m, white = 600 m', { low: 0, high: 600, ends: true }],
  ['code 0 is 1300 m, code 65535 is 1950 m', { low: 1300, high: 1950, ends: true }],
  ['0.01 m per code above a lowest elevation of 1300 m', { low: 1300, step: 0.01 }],
  ['minimum elevation 4,301 ft, maximum elevation 6,150 ft', { low: 4301 * 0.3048, high: 6150 * 0.3048 }],
  ['5 m per pixel', { spacing: 5 }],
  ['Pixel size: 12,5 m', { spacing: 12.5 }],
  ['Resolution: 4033 x 4033\nResolution: 2.5 m', { spacing: 2.5 }],
  ['Spacing 30 ft', { spacing: 9.144 }],
  ['Vertical exaggeration: 1.8', { stretch: 1.8 }],
  ['stretched by 180 %', { stretch: 1.8 }],
  ['1.5x vertically exaggerated', { stretch: 1.5 }],
  // the first that says something counts
  ['Lowest height 3 m, highest height 9 m\nLowest height 4 m', { low: 3, high: 9 }],
])('a note: %j', (text, says) => {
  const { lines, ...found } = readNote(text)!;
  expect(Object.keys(found).sort()).toEqual(Object.keys(says).sort());
  for (const [key, value] of Object.entries(says))
    if (typeof value === 'number') expect(found[key as 'low']).toBeCloseTo(value, 9);
    else expect(found[key as 'ends']).toBe(value);
  expect(lines.length).toBeGreaterThan(0);
});

test.each([
  'Created on 2026-03-04 at 12:30, 16 tiles of 512 MB at most',
  '16 bit, little-endian, 1025 x 1025',
  'Resolution: 1 arc-second',
  'Only the highest is known: highest elevation 900 m',
  'lowest elevation 900 m, highest elevation 300 m',
  'Elevations up to 99999999 m',
  'Resolution 300 dpi',
  'Heights: 16 to 32 bits',
  'Elevation data of 2019-2021',
  'Terrain: min 1 tile, max 16 tiles',
  'Ground of at least 512 MB, highest 1025 x 1025',
  '',
])('a note that says nothing of it: %j', (text) => {
  expect(readNote(text)).toBeNull();
});

test('long notes and long lines of one thing are read in no time, to their end or to where they are cut', () => {
  for (const text of ['lowest '.repeat(9000), '1 '.repeat(30_000), 'elevation 1'.repeat(6000), '-'.repeat(60_000)])
    expect(() => readNote(text)).not.toThrow();
});

test('a note goes with the file of its name, else with all; one of another file’s name is not asked', async () => {
  const sources = sideBySide([
    note('fells.png', ''),
    note('tarn.png', ''),
    note('tarn.txt', 'heights 1 to 2 m'),
    note('about.md', 'heights 10 to 20 m'),
    note('Licence.txt', 'free'),
  ]);
  expect(await noteBeside(sources[0]!)).toMatchObject({ from: 'about.md', low: 10, high: 20 });
  expect(await noteBeside(sources[1]!)).toMatchObject({ from: 'tarn.txt', low: 1, high: 2 });
  expect(await noteBeside(note('alone.png', ''))).toBeNull();
});

describe('what a note says goes into the calibration', () => {
  const info = (parts: Partial<RasterInfo> = {}): RasterInfo => ({
    format: 'png',
    width: 4,
    height: 4,
    channels: 1,
    bitDepth: 16,
    sampleType: 'uint',
    byteOrder: null,
    warnings: [],
    ...parts,
  });
  const said = (parts: Partial<RasterInfo>, text: string): RasterInfo =>
    noted(memoryRaster(info(parts), new Uint16Array(16)), { ...readNote(text)!, from: 'notes.txt' }).info;
  const source = (
    parts: Partial<RasterInfo>,
    text: string,
    stats: { min: number; max: number } | null = { min: 0, max: 65535 },
  ) => freshRecipe({ info: said(parts, text), stats }, 'fells').source;

  test('the ends of whole numbers, and the spacing: nothing is left to ask', () => {
    expect(source({}, 'Lowest 1310 m, highest 1874 m elevation\n5 m per pixel')).toEqual({
      heights: { as: 'ends', low: 1310, high: 1874 },
      spacing: 5,
    });
  });
  test('metres per code above the lowest', () => {
    expect(source({}, '0.01 m per code\nlowest elevation 1300 m').heights).toEqual({
      as: 'ends',
      low: 1300,
      high: 1300 + 0.01 * 65535,
    });
  });
  test('samples that don’t reach both ends: it may be meant otherwise, and is to be confirmed', () => {
    const text = 'Lowest 1310 m, highest 1874 m elevation\n5 m per pixel';
    expect(source({}, text, { min: 6000, max: 60_000 }).assumed).toEqual(['low', 'high']);
    // what is said of black and white is clear
    expect(source({}, 'black 1310 m, white 1874 m\n5 m per pixel', { min: 6000, max: 60_000 }).assumed).toBeUndefined();
  });
  test('floats from 0 to 1 take the ends, floats in metres don’t', () => {
    const text = 'elevations 100 to 300 m, 2 m per sample';
    expect(source({ sampleType: 'float', bitDepth: 32 }, text, { min: 0, max: 1 })).toEqual({
      heights: { as: 'ends', low: 100, high: 300 },
      spacing: 2,
    });
    expect(source({ sampleType: 'float', bitDepth: 32 }, text, { min: 90, max: 310 }).heights).toEqual({
      as: 'elevations',
    });
  });
  test('what the file itself says counts', () => {
    const placed = { x: 0, y: 0, dx: 3, dy: 3, metres: 1, degrees: false, crs: null };
    const found = source(
      { unit: 'metre', georeference: placed },
      'elevations 1 to 3 m, 9 m per sample, stretched by 2',
    );
    expect(found).toEqual({ heights: { as: 'elevations', unit: 'metre' }, spacing: 3 });
    // a stretch is offered, and not taken for granted
    expect(source({ unit: 'metre', georeference: placed }, 'stretched by 2').heights).toEqual({
      as: 'elevations',
      unit: 'metre',
    });
    expect(said({ unit: 'metre' }, 'stretched by 2').noted).toMatchObject({ stretch: 2, lines: ['stretched by 2'] });
  });
});
