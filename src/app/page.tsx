import { BenchRoom } from '@/features/bench/bench-room';
import { now } from '@/server/services/clock';
import { benchRows } from '@/server/services/bench-service';

export default async function BenchPage() {
  return <BenchRoom rows={await benchRows()} now={now()} />;
}
