import { parentPort } from 'node:worker_threads';
import { asLevelGridError } from '../../core/base';
import { inflateInto } from '../../core/formats';
import type { InflateAnswer, InflateRequest } from './inflate-thread';
import { fileSource } from './source';

// the whole of a reading thread: a file in, its half of the reading into shared memory
async function answer({ id, file, format, memory }: InflateRequest): Promise<InflateAnswer> {
  try {
    return { id, whole: await inflateInto(format, await fileSource(file), memory) };
  } catch (reason) {
    return { id, error: asLevelGridError(reason, 'reading the file').toRecord() };
  }
}

parentPort?.on('message', (request: InflateRequest) => {
  void answer(request).then((a) => parentPort?.postMessage(a));
});
