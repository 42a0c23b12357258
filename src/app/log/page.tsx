import { logQuerySchema } from '@/contracts/inputs';
import { LogRoom } from '@/features/log/log-room';
import { logPage } from '@/server/services/log-page';

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

/** Every round, found by any word of it. */
export default async function LogRoute({ searchParams }: Props) {
  const { most, ...filter } = await logQuerySchema
    .validate(await searchParams, { stripUnknown: true })
    .catch(() => logQuerySchema.getDefault());
  return <LogRoom log={await logPage(filter, most)} />;
}
