/**
 * `|value|` with `digits` decimals, rounded half up as a person would: 3.8375 becomes 3.838 although the nearest
 * double lies a hair below it.
 */
function fixed(value: number, digits: number): string {
  const scaled = Math.abs(value) * 10 ** digits;
  // beyond this a double holds no such decimals
  if (scaled > 1e14) return Math.abs(value).toFixed(digits);
  return (Math.round(scaled * (1 + 2 ** -50)) / 10 ** digits).toFixed(digits);
}

/** `value` rounded half away from zero at `digits` decimals, as a person would type it. */
export function roundTo(value: number, digits: number): number {
  const rounded = Number(fixed(value, digits));
  return value < 0 && rounded !== 0 ? -rounded : rounded;
}

/** A number with groups of three before the point and exactly `digits` decimals: 41 500.63. */
export function formatNumber(value: number, digits: number): string {
  const text = fixed(value, digits);
  const [whole = '', fraction] = text.split('.');
  const grouped = whole.replace(/\B(?=(\d{3})+(?!\d))/g, ' ');
  const sign = value < 0 && Number(text) !== 0 ? '−' : '';
  return sign + grouped + (fraction ? `.${fraction}` : '');
}

/** At most `digits` decimals, no trailing zeros: 2.5, 12.7, 1536. */
export function formatShort(value: number, digits = 3): string {
  return formatNumber(value, digits)
    .replace(/(\.\d*?)0+$/, '$1')
    .replace(/\.$/, '');
}

/** A number with as few decimals as it takes to tell it from another one. */
export function apart(value: number, other: number): string {
  for (let digits = 3; digits < 12; digits++)
    if (formatShort(value, digits) !== formatShort(other, digits)) return formatShort(value, digits);
  return formatShort(value, 12);
}

/** A small length in the unit that reads best: 12.7 mm, 3.2 cm, 1.85 m. */
export function formatLength(metres: number): string {
  const size = Math.abs(metres);
  if (size >= 1000) return `${formatShort(metres / 1000, 3)} km`;
  if (size >= 1 || size === 0) return `${formatShort(metres, 2)} m`;
  if (size >= 0.1) return `${formatShort(metres * 100, 1)} cm`;
  if (size >= 0.001) return `${formatShort(metres * 1000, 1)} mm`;
  return `${formatShort(metres * 1e6, 1)} µm`;
}

/** Two lengths, the unit said once where it is one: 3.838 × 3.838 km. */
export function formatExtent(across: number, down: number): string {
  const [a, b] = [formatLength(across), formatLength(down)];
  const unit = / \S+$/.exec(b)?.[0] ?? '';
  return `${a.endsWith(unit) ? a.slice(0, a.length - unit.length) : a} × ${b}`;
}

/** The same with its sign, + too; zero has none. */
export function formatSigned(metres: number): string {
  return metres > 0 ? `+${formatLength(metres)}` : formatLength(metres);
}

/** Bytes in powers of 1000, as file managers show them: 4.7 MB. */
export function formatBytes(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  if (bytes < 1e6) return `${formatShort(bytes / 1e3, 1)} kB`;
  if (bytes < 1e9) return `${formatShort(bytes / 1e6, 1)} MB`;
  return `${formatShort(bytes / 1e9, 2)} GB`;
}
