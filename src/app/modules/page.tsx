import { modulesQuerySchema } from '@/contracts/inputs';
import { ModulesRoom } from '@/features/modules/modules-room';
import { modulesView } from '@/server/services/module-service';

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

/** Modules against builds, and what to switch off before the next one. */
export default async function ModulesPage({ searchParams }: Props) {
  const { handset, caution, limit } = await modulesQuerySchema
    .validate(await searchParams)
    .catch(() => modulesQuerySchema.getDefault());
  const view = await modulesView(handset ?? null, caution, limit);
  return <ModulesRoom view={view} />;
}
