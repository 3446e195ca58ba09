import { TerrainPicture } from './picture';

/** The picture of a raster that is fed in bands of so many rows. */
function pictureOf(
  width: number,
  height: number,
  rows: number,
  code: (x: number, y: number) => number,
  spacing: number,
): Uint8Array {
  const picture = new TerrainPicture(width, height);
  for (let y = 0; y < height; y += rows) {
    const there = Math.min(rows, height - y);
    picture.add(
      y,
      Uint16Array.from({ length: there * width }, (_, i) => code(i % width, y + Math.floor(i / width))),
    );
  }
  return picture.png(0.05, 0.05, { x: spacing, y: spacing });
}

const hill = (x: number, y: number): number => 20000 + 40 * x + 15 * y + 9000 * Math.sin(x / 30) * Math.cos(y / 20);

// one sample, all samples and some of them in a cell; sides that cells fill and sides that they don't
test.each([
  [480, 70, 1],
  [960, 121, 2],
  [1000, 200, 3],
  [2033, 203, 5],
  [3361, 145, 8],
])('of %i × %i codes each cell shows the mean of its own', (width, height, cell) => {
  const [columns, rows] = [Math.ceil(width / cell), Math.ceil(height / cell)];
  const whole = (at: number, side: number): boolean => (Math.floor(at / cell) + 1) * cell <= side;
  // a slope across each whole cell leaves its mean as it is, if what is looked at lies evenly about its middle
  const slope = cell === 8 ? 0 : 60;
  const across = (x: number): number => (whole(x, width) ? ((x % cell) - (cell - 1) / 2) * slope : 0);
  const cells = pictureOf(columns, rows, 64, (x, y) => Math.round(hill(x, y)), 2.5 * cell);
  const code = (x: number, y: number): number =>
    Math.round(hill(Math.floor(x / cell), Math.floor(y / cell))) + across(x);
  for (const band of [1, 7, height]) expect(Buffer.compare(pictureOf(width, height, band, code, 2.5), cells)).toBe(0);
});

test('one sample, one row and one column are pictures too', () => {
  for (const [width, height] of [
    [1, 1],
    [700, 1],
    [1, 700],
  ] as const)
    expect(pictureOf(width, height, 16, () => 5, 1).length).toBeGreaterThan(60);
});
