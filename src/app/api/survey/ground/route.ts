import { LevelGridError } from '@/core/base';
import { assemble, blockHeights, groundOf, rangeOf } from '@/core/survey';
import { groundQuery, notUnderstood, queryOf } from '../query';

/** What some ground holds, before it is taken: its samples, borders, lowest, highest and voids. */
export function GET(request: Request): Response {
  const query = queryOf(request, groundQuery);
  if (!query) return notUnderstood();
  try {
    const { set, ...borders } = query;
    const ground = groundOf(set, borders);
    const { low, high, voids } = rangeOf(assemble(ground, (b) => blockHeights(set, b.column, b.row)));
    const none = voids === ground.width * ground.height;
    return Response.json({
      width: ground.width,
      height: ground.height,
      extent: ground.extent,
      blocks: ground.blocks.length,
      low: none ? null : low,
      high: none ? null : high,
      voids,
    });
  } catch (reason) {
    if (reason instanceof LevelGridError) return Response.json(reason.toRecord(), { status: 422 });
    throw reason;
  }
}
