import { cableBytesSchema } from '@/contracts/cable-inputs';
import { cableBytes } from '@/server/services/cable-desk';
import { guarded } from '@/server/services/request-guard';

/** Bytes of the image that an order sends, for the page that carries it out. */
export const GET = guarded<unknown>(async (request) => {
  const asked = await cableBytesSchema.validate(Object.fromEntries(new URL(request.url).searchParams));
  const bytes = await cableBytes(asked.handset, asked.page, asked);
  return new Response(bytes, {
    headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
  });
});
