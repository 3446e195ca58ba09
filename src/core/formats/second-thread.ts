import { LevelGridError, type ByteSource, type InflatedWhole } from '../base';
import { FORMATS } from './registry';

/** What whoever waits for a thread that died is told. */
export const readingThreadDied = (): LevelGridError =>
  new LevelGridError('internal', {
    found: 'a reading thread that stopped',
    expected: 'it to finish its work',
    remedy: 'Nothing was changed. Try again; close other programs or tabs if memory is short.',
  });

/** The other thread's half of reading a file, as its format shares the work; see `SourceThread`. */
export async function inflateInto(
  format: string,
  source: ByteSource,
  memory: SharedArrayBuffer,
): Promise<InflatedWhole | null> {
  const share = FORMATS.find((f) => f.id === format)?.share;
  if (!share) throw new Error(`no format ${format} that two threads share`);
  return share(source, memory);
}
