import { blockMap } from '@/core/survey';
import { answer, blockQuery, notUnderstood, queryOf } from '../query';

/** The plain map of one survey block: red, green and blue of each pixel, rows from the north. */
export async function GET(request: Request): Promise<Response> {
  const query = queryOf(request, blockQuery);
  if (!query) return notUnderstood();
  return answer(Uint8Array.from(blockMap(query.column, query.row)), query);
}
