import { PracticeRoom } from '@/features/practice/practice-room';
import { practiceView } from '@/server/services/practice-service';

export default async function PracticePage() {
  return <PracticeRoom view={await practiceView()} />;
}
