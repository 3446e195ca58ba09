import { blockHeights } from '@/core/survey';
import { answer, blockQuery, notUnderstood, queryOf } from '../query';

/** Heights of one survey block: floats of 32 bits, little-endian, rows from the north, NaN where there is none. */
export async function GET(request: Request): Promise<Response> {
  const query = queryOf(request, blockQuery);
  if (!query) return notUnderstood();
  const heights = blockHeights(query.set, query.column, query.row);
  const view = new DataView(new ArrayBuffer(4 * heights.length));
  heights.forEach((v, i) => view.setFloat32(4 * i, v, true));
  return answer(new Uint8Array(view.buffer), query);
}
