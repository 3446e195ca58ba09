const development = process.env['NODE_ENV'] !== 'production';

/**
 * What a page of the application may load and run: its own files alone. The page's start-up scripts are inline; they run
 * by a nonce that is new for each answer, and what has none never runs. WebAssembly needs its own word.
 */
export function contentSecurityPolicy(nonce?: string): string {
  const scripts = [
    "'self'",
    "'wasm-unsafe-eval'",
    ...(nonce === undefined ? [] : [`'nonce-${nonce}'`]),
    // the development server's own way to reload
    ...(development ? ["'unsafe-eval'"] : []),
  ].join(' ');
  return (
    `default-src 'self'; script-src ${scripts}; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; ` +
    "worker-src 'self'; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'self'; " +
    "frame-ancestors 'none'; form-action 'self'"
  );
}
