import { memorySource, type ByteSource } from '@/core/base';

/** Heights of made-up ground in metres, by column and row: no two rows or columns are alike. */
export const groundAt = (x: number, y: number): number =>
  900.3 + 300 * Math.sin(x / 23) * Math.cos(y / 31) + 60 * Math.sin((x + 2 * y) / 9) + 0.37 * x;

/** A part of that ground in degrees, an arc second apart, as an ASCII grid: from column `x0` and row `y0` on. */
export function degrees(name: string, x0: number, y0: number, width: number, height: number): ByteSource {
  const rows = Array.from({ length: height }, (_, y) =>
    Array.from({ length: width }, (_v, x) => groundAt(x0 + x, y0 + y).toFixed(3)).join(' '),
  );
  const cell = 1 / 3600;
  const [west, south] = [80.3 + x0 * cell, -47.2 - (y0 + height - 1) * cell];
  const head = `ncols ${width}\nnrows ${height}\nxllcenter ${west}\nyllcenter ${south}\ncellsize ${cell}\n`;
  return memorySource(name, new TextEncoder().encode(head + rows.join('\n')));
}
