import { createHash } from 'node:crypto';
import type { Hasher } from '../../core/base';

export { fileSource } from './source';
export { DiskFolder, settleFolder } from './folder';
export { nodePieceThread } from './pool';
export { nodeInflateThread } from './inflate-thread';

/** Node's own SHA-256, several times as fast as the portable one. */
export function nodeSha256(): Hasher {
  const hash = createHash('sha256');
  return {
    update: (bytes) => {
      hash.update(bytes);
    },
    digest: () => hash.digest('hex'),
  };
}
