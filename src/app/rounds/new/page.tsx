import { notFound, redirect } from 'next/navigation';
import { newRoundSchema } from '@/contracts/inputs';
import { EternoError } from '@/core/errors';
import { ChooseLane } from '@/features/round/choose-lane';
import { readWish } from '@/contracts/ways-query';
import { waysOf } from '@/server/services/plan-service';
import { openRound } from '@/server/rounds/open-rounds';

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

/** Lanes to a goal side by side, before a round is begun. */
export default async function NewRoundPage({ searchParams }: Props) {
  const query = await newRoundSchema.validate(await searchParams).catch(() => notFound());
  const { handset, lane, ...wanted } = query;
  const open = await openRound(handset);
  if (open) redirect(`/rounds/${open.id}`);
  const wish = readWish(wanted);
  const ways = await waysOf(handset, wish).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'not-found') notFound();
    throw thrown;
  });
  return <ChooseLane key={JSON.stringify(wish)} ways={ways} asked={lane ?? null} />;
}
