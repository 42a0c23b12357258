/*
 * Who may ask. Plain JavaScript: the front door asks it before anything of the application is loaded, its
 * routes ask it again.
 */

const LOCAL = /^(127\.0\.0\.1|localhost|\[::1\])(:\d{1,5})?$/;

/**
 * Whether a request comes from this machine and from no other site's page: its Host is this machine, its
 * Origin, where it has one, the same. A page of another site may only lead here: a link that opens a page of
 * its own, never a frame, a download or anything under `/api`.
 *
 * @param {{ get(name: string): string | null }} headers
 * @param {string} path of the request, from its slash on
 */
export function isLocalRequest(headers, path) {
  const host = headers.get('host') ?? '';
  if (!LOCAL.test(host)) return false;
  const origin = headers.get('origin');
  if (origin !== null && origin !== `http://${host}`) return false;
  const site = headers.get('sec-fetch-site');
  if (site === null || site === 'same-origin' || site === 'none') return true;
  return (
    !/^\/api(\/|$)/.test(path) &&
    headers.get('sec-fetch-mode') === 'navigate' &&
    headers.get('sec-fetch-dest') === 'document'
  );
}

/**
 * What every answer carries, whatever answers. Pages put a policy of their own in place of this one, which
 * allows nothing; a worker is held by the policy of its own file, so files of the build are only kept out of
 * frames.
 *
 * @param {string} path of the request, from its slash on
 */
export const doorHeaders = (path) => ({
  'content-security-policy': path.startsWith('/_next/static/')
    ? "frame-ancestors 'none'"
    : "default-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'",
  'x-frame-options': 'DENY',
  'x-content-type-options': 'nosniff',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
  'referrer-policy': 'same-origin',
});
