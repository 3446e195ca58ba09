import { parentPort } from 'node:worker_threads';
import { encodePiece, type PieceTask } from '../../core/formats/png';

// the whole of an encoding thread: a piece in, its bytes out
parentPort?.on('message', (task: PieceTask) => {
  const result = encodePiece(task);
  parentPort?.postMessage(result, [result.bytes.buffer as ArrayBuffer]);
});
