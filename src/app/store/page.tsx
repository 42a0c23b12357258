import { StoreRoom } from '@/features/store/store-room';
import { now } from '@/server/services/clock';
import { storeView } from '@/server/services/vault-service';

export default async function StorePage() {
  return <StoreRoom store={await storeView()} now={now()} />;
}
