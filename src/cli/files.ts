import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { LevelGridError, type ByteSource } from '../core/base';
import { fileSource, nodeInflateThread } from '../io/node';

/** A path as the caller meant it: counted from where they stand, even when npm moved the process. */
export function fromCaller(file: string): string {
  return path.resolve(process.env['INIT_CWD'] ?? process.cwd(), file);
}

export async function readText(file: string): Promise<string> {
  try {
    return await readFile(file, 'utf8');
  } catch {
    throw new LevelGridError('not-found', {
      file: path.basename(file),
      found: 'no file that can be read',
      expected: 'a text file',
      remedy: 'Check the path.',
    });
  }
}

const inflateThread = nodeInflateThread(path.join(import.meta.dirname, 'inflate-worker.mjs'));

/** A height file that two threads can share. */
export const heightSource = (file: string): Promise<ByteSource> => fileSource(file, inflateThread);
