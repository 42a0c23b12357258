import { notFound } from 'next/navigation';
import { rescueQuerySchema } from '@/contracts/rescue-inputs';
import { EternoError } from '@/core/errors';
import { RescueRoom } from '@/features/rescue/rescue-room';
import { rescueView } from '@/server/services/rescue-service';

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

/** A handset in trouble: from what it shows to the smallest repair that works. */
export default async function RescuePage({ searchParams }: Props) {
  const { handset, like } = await rescueQuerySchema.validate(await searchParams).catch(() => notFound());
  const view = await rescueView(handset ?? null, like ?? null).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'not-found') notFound();
    throw thrown;
  });
  return (
    <RescueRoom
      key={handset ?? like ?? ''}
      view={view}
      like={handset === undefined ? (like ?? null) : null}
    />
  );
}
