import { LogRoom } from '@/features/log/log-room';
import { logRounds } from '@/server/services/log-service';

export default async function LogPage() {
  return <LogRoom rounds={await logRounds()} />;
}
