import * as Comlink from 'comlink';
import { inflateInto } from '../../core/formats';
import { streamedSource } from '../../io/browser';
import type { InflateWorker } from '../protocol';
import { outcome } from './outcome';

const worker: InflateWorker = {
  inflate: (blob, name, memory) => outcome('reading the file', () => inflateInto(streamedSource(blob, name), memory)),
};

Comlink.expose(worker);
