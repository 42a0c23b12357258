import { LogRoom } from '@/features/log/log-room';
import { logView } from '@/server/services/log-service';

export default async function LogPage() {
  return <LogRoom log={await logView()} />;
}
