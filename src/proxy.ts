import { type NextRequest, NextResponse } from 'next/server';
import { contentSecurityPolicy } from './policy';

/** Gives each page its own nonce; the framework puts it on the scripts that it writes. */
export function proxy(request: NextRequest): NextResponse {
  const policy = contentSecurityPolicy(btoa(crypto.randomUUID()));
  const headers = new Headers(request.headers);
  headers.set('Content-Security-Policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('Content-Security-Policy', policy);
  return response;
}

export const config = { matcher: ['/'] };
