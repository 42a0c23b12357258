import { FirmwareRoom } from '@/features/firmware/firmware-room';
import { now } from '@/server/services/clock';
import { downloadPageView } from '@/server/services/download-page';
import { seenPackages } from '@/server/services/firmware-service';
import { handsetNames } from '@/server/services/listed-builds';
import { newestOpenRound } from '@/server/rounds/open-rounds';
import { wantedImages } from '@/server/rounds/wanted';

export default async function FirmwarePage() {
  return (
    <FirmwareRoom
      known={await seenPackages()}
      openRound={await newestOpenRound()}
      wanted={await wantedImages(null)}
      now={now()}
      handsets={await handsetNames()}
      page={await downloadPageView()}
    />
  );
}
