import { StoreRoom } from '@/features/store/store-room';
import { cableSwitchedOn } from '@/server/services/cable-service';
import { now } from '@/server/services/clock';
import { storeView } from '@/server/services/vault-service';
import { ownCommands } from '@/server/services/vocabulary-service';

export default async function StorePage() {
  return (
    <StoreRoom
      store={await storeView()}
      commands={await ownCommands()}
      cable={await cableSwitchedOn()}
      now={now()}
    />
  );
}
