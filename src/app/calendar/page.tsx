import { calendarQuerySchema } from '@/contracts/inputs';
import { CalendarRoom } from '@/features/calendar/calendar-room';
import { calendarOfMonth } from '@/server/services/calendar-service';

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

/** What is out, what is to be expected, what waits, and the person's own days. */
export default async function CalendarPage({ searchParams }: Props) {
  const { month } = await calendarQuerySchema
    .validate(await searchParams)
    .catch(() => ({ month: undefined }));
  return <CalendarRoom view={await calendarOfMonth(month)} />;
}
