import { notFound } from 'next/navigation';
import { EternoError } from '@/core/errors';
import { PrintPage } from '@/features/round/print-page';
import { isPageKind, roundPage } from '@/server/services/pages-service';

/** A page of a round, to be printed. */
export default async function RoundPrintPage({ params }: { params: Promise<{ id: string; page: string }> }) {
  const { id, page } = await params;
  if (!isPageKind(page)) notFound();
  const document = await roundPage(id, page).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'not-found') notFound();
    throw thrown;
  });
  return <PrintPage document={document} roundId={id} page={page} />;
}
