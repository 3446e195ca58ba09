import { sha256 } from '@noble/hashes/sha2.js';
import { createSHA256, createXXHash128 } from 'hash-wasm';

/** A SHA-256 that is fed piece by piece; Node's own or the portable one. */
export interface Hasher {
  update(bytes: Uint8Array): void;
  /** Lower-case hexadecimal. Ends the hasher. */
  digest(): string;
}

export function hex(bytes: Uint8Array): string {
  return Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('');
}

/** Starts a SHA-256. */
export type StartHasher = () => Hasher | Promise<Hasher>;

/** The portable hasher, for page and worker (Web Crypto can't be fed in pieces); in plain script where WASM is missing. */
export const portableSha256 = (): Promise<Hasher> => inWasm(createSHA256);

async function inWasm(create: typeof createSHA256): Promise<Hasher> {
  try {
    const state = await create();
    state.init();
    return {
      update: (bytes) => {
        state.update(bytes);
      },
      digest: () => state.digest('hex'),
    };
  } catch {
    return plainSha256();
  }
}

/** The same without WASM. */
export function plainSha256(): Hasher {
  const state = sha256.create();
  return {
    update: (bytes) => {
      state.update(bytes);
    },
    digest: () => hex(state.digest()),
  };
}

/** Tells contents apart, quickly, where nobody means harm: 128 bits. */
export const contentHasher = (): Promise<Hasher> => inWasm(() => createXXHash128());
