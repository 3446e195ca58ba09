import { sha256 } from '@noble/hashes/sha2.js';

/** A SHA-256 that is fed piece by piece; Node's own or the portable one. */
export interface Hasher {
  update(bytes: Uint8Array): void;
  /** Lower-case hexadecimal. Ends the hasher. */
  digest(): string;
}

export function hex(bytes: Uint8Array): string {
  return Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('');
}

/** The portable hasher, for page and worker (Web Crypto can't be fed in pieces). */
export function portableSha256(): Hasher {
  const state = sha256.create();
  return {
    update: (bytes) => {
      state.update(bytes);
    },
    digest: () => hex(state.digest()),
  };
}
