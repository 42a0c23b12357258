import { notFound } from 'next/navigation';
import { TryItRoom } from '@/features/try-it/try-it-room';
import { tryItView } from '@/server/services/try-it-service';

/** Pieces of work to try; there only where the demo made this world. */
export default async function TryPage() {
  const view = await tryItView();
  if (!view) notFound();
  return <TryItRoom view={view} />;
}
