import 'server-only';
import { EternoError, toEternoError } from '@/core/errors';
import { isLocalRequest } from '@/platform/node/local-request.mjs';

export { isLocalRequest };

function statusOf(error: EternoError): number {
  switch (error.code) {
    case 'not-found':
      return 404;
    case 'refused':
      return 403;
    case 'conflict':
      return 409;
    case 'too-large':
      return 413;
    case 'internal':
    case 'io':
      return 500;
    default:
      return 400;
  }
}

/** What nobody foresaw is written down here and not sent out: it may name folders of this machine. */
function told(thrown: unknown): EternoError {
  const error = toEternoError(thrown);
  if (error.code !== 'internal' && error.code !== 'io') return error;
  process.stderr.write(`${error.stack ?? error.message}\n`);
  return error.code === 'io'
    ? new EternoError('io', withoutPaths(error.message))
    : new EternoError('internal', 'Something here went wrong.');
}
const withoutPaths = (text: string) => text.replace(/'?\/[^\s']*\/([^\s'/]*)'?/g, '$1');

/**
 * A route handler that checks Host and Origin itself and answers errors as data; a changing request must come
 * from our own page.
 */
export function guarded<C>(
  work: (request: Request, context: C) => Promise<Response>,
): (request: Request, context: C) => Promise<Response> {
  return async (request, context) => {
    try {
      if (/%00/.test(request.url)) throw new EternoError('bad-field', 'An address holds no such character.');
      const changes = request.method !== 'GET' && request.method !== 'HEAD';
      if (
        !isLocalRequest(request.headers, new URL(request.url).pathname) ||
        (changes && request.headers.get('origin') === null)
      ) {
        throw new EternoError('refused', 'This request does not come from Eterno’s own page.');
      }
      return await work(request, context);
    } catch (thrown) {
      const invalid = thrown instanceof Error && thrown.name === 'ValidationError';
      const error = invalid ? new EternoError('bad-field', thrown.message) : told(thrown);
      return Response.json({ error: error.toData() }, { status: statusOf(error) });
    }
  };
}
