import { memorySource, type ByteSource } from '../../src/core/base';
import { inflateInto } from '../../src/core/formats';

/** A source whose other thread is the one of the test, which does both parts by turns. */
export interface SharedSource extends ByteSource {
  /** How often the other thread was asked, and how often it came to its end. */
  asked: number;
  ended: number;
}

export function sharedSource(name: string, file: Uint8Array): SharedSource {
  const near = memorySource(name, file);
  const source: SharedSource = {
    ...near,
    asked: 0,
    ended: 0,
    thread: {
      inflate: (format: string, memory: SharedArrayBuffer) => {
        source.asked++;
        return inflateInto(format, near, memory).finally(() => source.ended++);
      },
    },
  };
  return source;
}

/** The other side notices at its next piece that no more is wanted. */
export async function endedBy(source: SharedSource, times = 1): Promise<void> {
  for (let i = 0; i < 1000 && source.ended < times; i++) await new Promise((resolve) => setImmediate(resolve));
}
