import { notFound } from 'next/navigation';
import { EternoError } from '@/core/errors';
import { HandsetRoom } from '@/features/handset/handset-room';
import { partOf } from '@/features/handset/parts';
import { now } from '@/server/services/clock';
import { handsetDetail } from '@/server/services/handset-service';

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

export default async function HandsetPage({ params, searchParams }: Props) {
  const handset = await handsetDetail((await params).id).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'not-found') notFound();
    throw thrown;
  });
  return <HandsetRoom handset={handset} part={partOf((await searchParams).part)} now={now()} />;
}
