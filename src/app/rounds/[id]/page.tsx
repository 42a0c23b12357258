import { notFound } from 'next/navigation';
import { EternoError } from '@/core/errors';
import { RoundRoom } from '@/features/round/round-room';
import { now } from '@/server/services/clock';
import { imageSummaries } from '@/server/services/image-view';
import { roundView } from '@/server/rounds/round-view';

export default async function RoundPage({ params }: { params: Promise<{ id: string }> }) {
  const round = await roundView((await params).id).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'not-found') notFound();
    throw thrown;
  });
  return <RoundRoom round={round} images={await imageSummaries()} now={now()} />;
}
