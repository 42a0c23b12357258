import { notFound, redirect } from 'next/navigation';
import { newRoundSchema } from '@/contracts/inputs';
import { EternoError } from '@/core/errors';
import { ChooseLane } from '@/features/round/choose-lane';
import { readWish, waysOf } from '@/server/services/plan-service';
import { openRound } from '@/server/rounds/open-rounds';

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

/** Lanes to a goal side by side, before a round is begun. */
export default async function NewRoundPage({ searchParams }: Props) {
  const query = await newRoundSchema.validate(await searchParams).catch(() => notFound());
  const { handset, goal, target, ...limits } = query;
  const open = await openRound(handset);
  if (open) redirect(`/rounds/${open.id}`);
  const told = Object.fromEntries(Object.entries(limits).filter(([, value]) => value !== undefined));
  const wish = readWish({ ...(goal ? { goal } : {}), ...(target ? { target } : {}), ...told });
  const ways = await waysOf(handset, wish).catch((thrown: unknown) => {
    if (thrown instanceof EternoError && thrown.code === 'not-found') notFound();
    throw thrown;
  });
  return <ChooseLane key={JSON.stringify(wish)} ways={ways} />;
}
