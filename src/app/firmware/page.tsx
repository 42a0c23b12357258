import { FirmwareRoom } from '@/features/firmware/firmware-room';
import { now } from '@/server/services/clock';
import { packageViews } from '@/server/services/bench-reading';
import { newestOpenRound } from '@/server/services/round-service';

export default async function FirmwarePage() {
  return <FirmwareRoom known={await packageViews()} openRound={await newestOpenRound()} now={now()} />;
}
