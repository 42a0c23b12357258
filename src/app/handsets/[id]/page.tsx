import { notFound } from 'next/navigation';
import { EternoError } from '@/core/errors';
import { HandsetRoom } from '@/features/handset/handset-room';
import { partOf } from '@/features/handset/parts';
import { waysSchema } from '@/contracts/inputs';
import { now } from '@/server/services/clock';
import { handsetDetail } from '@/server/services/handset-service';
import { readWish, waysOf } from '@/server/services/plan-service';

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

export default async function HandsetPage({ params, searchParams }: Props) {
  const handset = await handsetDetail((await params).id).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'not-found') notFound();
    throw thrown;
  });
  const query = await searchParams;
  const part = partOf(query.part);
  const ways = part === 'ways' ? await waysOf(handset.id, readWish(await waysSchema.validate(query))) : null;
  return <HandsetRoom handset={handset} part={part} ways={ways} now={now()} />;
}
