import { notFound } from 'next/navigation';
import { sameWaySchema } from '@/contracts/practice-inputs';
import { PracticeRoom } from '@/features/practice/practice-room';
import { practiceView } from '@/server/services/practice-service';

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

export default async function PracticePage({ searchParams }: Props) {
  const wanted = await sameWaySchema
    .validate(await searchParams, { stripUnknown: true })
    .catch(() => notFound());
  const { copy: _copy, ...way } = wanted;
  const asked = way.goal === undefined ? null : (JSON.parse(JSON.stringify(way)) as Record<string, string>);
  const view = await practiceView(asked);
  const copied = view.handsets.find(({ id }) => id === wanted.copy)?.id ?? null;
  return <PracticeRoom key={copied} view={view} copied={copied} />;
}
