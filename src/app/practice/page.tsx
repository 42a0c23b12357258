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
  const asked =
    wanted.goal === undefined ? null : (JSON.parse(JSON.stringify(wanted)) as Record<string, string>);
  return <PracticeRoom view={await practiceView(asked)} />;
}
