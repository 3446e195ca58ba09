let table: Float32Array | null = null;

/** Value of every half float by its bits (IEEE 754 binary16), made when first needed. */
export function halfValues(): Float32Array {
  if (table) return table;
  table = new Float32Array(65536);
  for (let bits = 0; bits < 65536; bits++) {
    const sign = bits & 0x8000 ? -1 : 1;
    const exponent = (bits >> 10) & 31;
    const fraction = bits & 1023;
    table[bits] =
      exponent === 0
        ? sign * fraction * 2 ** -24
        : exponent === 31
          ? fraction === 0
            ? sign * Infinity
            : NaN
          : sign * (1 + fraction / 1024) * 2 ** (exponent - 15);
  }
  return table;
}
