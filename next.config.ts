import type { NextConfig } from 'next';

const development = process.env['NODE_ENV'] !== 'production';

/** Cross-origin isolation is what allows shared memory between page and workers; the policy keeps every request at home. */
const headers = [
  { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
  { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
  { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
  { key: 'X-Content-Type-Options', value: 'nosniff' },
  { key: 'Referrer-Policy', value: 'no-referrer' },
  {
    key: 'Content-Security-Policy',
    value:
      "default-src 'self'; " +
      // Next writes inline start-up scripts; WebAssembly needs its own word
      `script-src 'self' 'unsafe-inline' 'wasm-unsafe-eval'${development ? " 'unsafe-eval'" : ''}; ` +
      "style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; worker-src 'self'; font-src 'self'; " +
      "connect-src 'self'; object-src 'none'; base-uri 'self'; frame-ancestors 'none'; form-action 'self'",
  },
];

const config: NextConfig = {
  poweredByHeader: false,
  reactStrictMode: true,
  // `npm test` checks types itself
  typescript: { ignoreBuildErrors: true },
  turbopack: { root: import.meta.dirname },
  headers: async () => [{ source: '/:path*', headers }],
};

export default config;
