import { BenchRoom } from '@/features/bench/bench-room';
import { now } from '@/server/services/clock';
import { benchRows, putAwayHandsets } from '@/server/services/bench-service';

export default async function BenchPage() {
  return <BenchRoom rows={await benchRows()} away={await putAwayHandsets()} now={now()} />;
}
