import type { NextConfig } from 'next';
import { contentSecurityPolicy } from './src/policy';

/** Cross-origin isolation is what allows shared memory between page and workers. */
const headers = [
  { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
  { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
  { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
  { key: 'X-Content-Type-Options', value: 'nosniff' },
  { key: 'Referrer-Policy', value: 'no-referrer' },
];

const config: NextConfig = {
  poweredByHeader: false,
  reactStrictMode: true,
  // `npm test` checks types itself
  typescript: { ignoreBuildErrors: true },
  turbopack: {
    root: import.meta.dirname,
    // its version for pages asks the document, and pages are read in a worker
    resolveAlias: { 'decode-named-character-reference': './node_modules/decode-named-character-reference/index.js' },
  },
  headers: async () => [
    { source: '/:path*', headers },
    // the page itself gets one with a nonce: see src/proxy.ts
    { source: '/:path+', headers: [{ key: 'Content-Security-Policy', value: contentSecurityPolicy() }] },
  ],
};

export default config;
