import { guarded } from '@/server/services/request-guard';
import { bodyText } from '@/server/services/streams';

const FORM_BYTES = 4096;

/** Light or dark, kept in a cookie; sends the browser back to where it was. */
export const POST = guarded<unknown>(async (request) => {
  const look =
    new URLSearchParams(await bodyText(request, FORM_BYTES)).get('look') === 'dark' ? 'dark' : 'light';
  const from = new URL(request.headers.get('referer') ?? '/', request.url);
  return new Response(null, {
    status: 303,
    headers: {
      location: `${from.pathname}${from.search}`,
      'set-cookie': `eterno-look=${look}; Path=/; Max-Age=31536000; SameSite=Strict`,
    },
  });
});
