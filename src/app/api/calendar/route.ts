import { bringInCalendar, CALENDAR_BYTES, calendarResponse } from '@/server/services/calendar-file';
import { guarded } from '@/server/services/request-guard';
import { bodyText } from '@/server/services/streams';

export const GET = guarded<unknown>(async () => calendarResponse());
export const POST = guarded<unknown>(async (request) =>
  Response.json(await bringInCalendar(await bodyText(request, CALENDAR_BYTES))),
);
