import * as Comlink from 'comlink';
import { inflateInto } from '../../core/formats';
import { blobSource, streamedSource } from '../../io/browser';
import type { InflateWorker } from '../protocol';
import { outcome } from './outcome';

/** Files that are being read. */
let reading = 0;

const worker: InflateWorker = {
  inflate: (blob, name, format, memory) =>
    outcome('reading the file', async () => {
      const source = reading++ === 0 ? streamedSource(blob, name) : blobSource(blob, name);
      try {
        return await inflateInto(format, source, memory);
      } finally {
        reading--;
      }
    }),
};

Comlink.expose(worker);
