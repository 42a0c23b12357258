import { notFound } from 'next/navigation';
import { EternoError } from '@/core/errors';
import { HandsetRoom } from '@/features/handset/handset-room';
import { now } from '@/server/services/clock';
import { handsetDetail } from '@/server/services/handset-service';

export default async function HandsetPage({ params }: { params: Promise<{ id: string }> }) {
  const handset = await handsetDetail((await params).id).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'not-found') notFound();
    throw thrown;
  });
  return <HandsetRoom handset={handset} now={now()} />;
}
