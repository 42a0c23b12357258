import { notFound } from 'next/navigation';
import { EternoError } from '@/core/errors';
import { ImageRoom } from '@/features/image/image-room';
import { kitViews } from '@/server/services/image-service';
import { imageDetail, imagesBeside } from '@/server/services/image-view';
import { newestOpenRound } from '@/server/rounds/open-rounds';

export default async function ImagePage({ params }: { params: Promise<{ sha: string }> }) {
  const image = await imageDetail((await params).sha).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'not-found') notFound();
    throw thrown;
  });
  return (
    <ImageRoom
      image={image}
      kits={await kitViews()}
      others={await imagesBeside(image.sha256)}
      openRound={await newestOpenRound()}
    />
  );
}
