import * as z from 'zod';
import { BLOCKS, DATA_SET_IDS } from '@/core/survey';

/** What can be wrong with a service, switched on by whoever tries it. */
export const FAULTS = ['none', 'slow', 'half', 'missing'] as const;

const whole = (most: number) => z.coerce.number().int().min(0).max(most);

export const blockQuery = z.strictObject({
  set: z.enum(DATA_SET_IDS),
  column: whole(BLOCKS.across - 1),
  row: whole(BLOCKS.down - 1),
  fault: z.enum(FAULTS).default('none'),
});

const degrees = z.coerce.number().min(-180).max(180);
export const groundQuery = z.strictObject({
  set: z.enum(DATA_SET_IDS),
  west: degrees,
  south: degrees,
  east: degrees,
  north: degrees,
});

/** The query of a request; null where it isn't one of these. */
export function queryOf<T>(request: Request, schema: z.ZodType<T>): T | null {
  const found = schema.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  return found.success ? found.data : null;
}

export const notUnderstood = (): Response => new Response('This query is not understood.', { status: 400 });

/** Blocks that a service without some of its data does not have. */
const isMissing = (column: number, row: number): boolean => (column + row) % 5 === 0;

/** A service that breaks off has the western half of its blocks. */
const BREAKS_FROM = BLOCKS.across / 2;

/** Milliseconds that a slow service takes for each block. */
const SLOW = 700;

/** Bytes of a block, with the fault that is asked for. */
export async function answer(
  bytes: Uint8Array<ArrayBuffer>,
  { column, row, fault }: { column: number; row: number; fault: (typeof FAULTS)[number] },
): Promise<Response> {
  if (fault === 'missing' && isMissing(column, row)) return new Response('There is no such block.', { status: 404 });
  if (fault === 'slow') await new Promise((resolve) => setTimeout(resolve, SLOW));
  const headers = { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'no-store' };
  if (fault !== 'half' || column < BREAKS_FROM) return new Response(bytes, { headers });
  // breaks off in the middle, as a line does that is cut
  const half = bytes.subarray(0, bytes.length >> 1);
  return new Response(half, { headers: { ...headers, 'X-Whole-Length': String(bytes.length) } });
}
