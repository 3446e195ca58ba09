import { memorySource } from '../../base';
import { georeferenceWarnings, groundSpacing } from '../../raster';
import { openHeightFile } from '../registry';
import { cornerOf } from './read';

function block(side: number, value: (x: number, y: number) => number): Uint8Array {
  const bytes = new Uint8Array(side * side * 2);
  const view = new DataView(bytes.buffer);
  for (let y = 0; y < side; y++) for (let x = 0; x < side; x++) view.setInt16((y * side + x) * 2, value(x, y));
  return bytes;
}

test('a block of 3 arc-seconds: metres, voids, and its place by its name', async () => {
  const bytes = block(1201, (x, y) => (x === 5 && y === 9 ? -32768 : x - 2 * y));
  const raster = await openHeightFile(memorySource('N47E011.hgt', bytes));
  expect(raster.info).toMatchObject({ width: 1201, height: 1201, unit: 'metre', registration: 'vertex' });
  expect(raster.info.georeference).toEqual({
    x: 11,
    y: 48,
    dx: 1 / 1200,
    dy: 1 / 1200,
    metres: null,
    degrees: true,
    crs: 'EPSG:4326',
  });
  const found = new Float32Array(1201 * 1201);
  for await (const { y, data } of raster.bands()) found.set(data, y * 1201);
  expect(found[9 * 1201 + 5]).toBeNaN();
  expect([found[0], found[1200], found[1200 * 1201], found[700 * 1201 + 3]]).toEqual([0, 1200, -2400, -1397]);
});

test('metres of its samples at 47.5°, as worked out by hand from the series', async () => {
  const raster = await openHeightFile(
    memorySource(
      'n47w003.hgt',
      block(3601, () => 0),
    ),
  );
  const { east, north } = groundSpacing(raster.info)!;
  // 111132.954 − 559.822 · cos 95° + 1.175 · cos 190° = 111180.5886…; 111412.84 · cos 47.5° − 93.5 · cos 142.5° + 0.118 · cos 237.5°
  expect(north * 3600).toBeCloseTo(111180.5886, 2);
  expect(east * 3600).toBeCloseTo(75343.5388, 2);
  expect(georeferenceWarnings(raster.info)[0]?.message).toMatch(
    /1 arc-seconds apart.*20\.93 m east–west and 30\.88 m north–south.*1\.48 times too wide/,
  );
});

test('names of blocks in all quarters of the globe; others say nothing', async () => {
  expect(cornerOf('S01W070.hgt')).toEqual({ latitude: -1, longitude: -70 });
  expect(cornerOf('n00e006.HGT')).toEqual({ latitude: 0, longitude: 6 });
  for (const name of ['tarn.hgt', 'N99E011.hgt', 'N47E999.hgt']) expect(cornerOf(name)).toBeNull();
  const raster = await openHeightFile(
    memorySource(
      'tarn.hgt',
      block(1201, () => 1),
    ),
  );
  expect(raster.info.georeference).toBeUndefined();
  expect(raster.info.warnings[0]?.message).toContain('does not say which block it is');
});

test('any other length is refused with both that there are', async () => {
  await expect(openHeightFile(memorySource('N47E011.hgt', new Uint8Array(1200 * 1200 * 2)))).rejects.toMatchObject({
    code: 'raw-length',
    file: 'N47E011.hgt',
    expected: '2884802 (1201 × 1201 samples) or 25934402 (3601 × 3601 samples)',
  });
});
