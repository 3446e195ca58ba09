import { encodePiece, type PieceTask } from '../../core/formats/png';

// the whole of an encoding thread: a piece in, its bytes out
self.onmessage = ({ data }: MessageEvent<PieceTask>) => {
  const result = encodePiece(data);
  self.postMessage(result, { transfer: [result.bytes.buffer as ArrayBuffer] });
};
