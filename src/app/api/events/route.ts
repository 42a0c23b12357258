import { subscribe } from '@/server/services/message-bus';
import { guarded } from '@/server/services/request-guard';
import { eventStream } from '@/server/services/streams';

/** Jobs and rounds as they change; goes on after `Last-Event-ID`, or after `since` on the first request. */
export const GET = guarded<unknown>(async (request) => {
  const last = Number(
    request.headers.get('last-event-id') ?? new URL(request.url).searchParams.get('since') ?? 0,
  );
  return eventStream(request.signal, (send) =>
    subscribe(Number.isSafeInteger(last) ? last : 0, ({ id, message }) => send(message, id)),
  );
});
