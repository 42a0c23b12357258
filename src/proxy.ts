import type { NextRequest } from 'next/server';
import { NextResponse } from 'next/server';
import { isLocalRequest } from './server/services/request-guard';

/**
 * Pages only: Host and Origin checked, a strict Content-Security-Policy with a fresh nonce. `/api/` checks
 * for itself.
 */
export function proxy(request: NextRequest): NextResponse {
  if (!isLocalRequest(request.headers, request.nextUrl.pathname))
    return new NextResponse('Eterno answers only on this machine.', { status: 403 });
  const nonce = Buffer.from(crypto.randomUUID()).toString('base64');
  const policy = [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "worker-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'same-origin');
  return response;
}

/**
 * Large bodies go to `/api/`, and a proxy would cut them. A worker is held by the policy of its own file, so
 * files of the build carry none of a page's.
 */
export const config = { matcher: ['/((?!api/|_next/static/).*)'] };
