import 'server-only';
import type { HandsetSummary } from '@/contracts/handset-view';
import { vaultSize } from '../vault/vault';
import { now } from './clock';
import { handsetSummaries } from './bench-service';
import { newestMessageId } from './message-bus';

export interface FrameView {
  readonly now: number;
  readonly since: number;
  readonly handsets: readonly HandsetSummary[];
  readonly vault: { readonly files: number; readonly bytes: number };
}

/** What the frame around every room shows. */
export async function frameView(): Promise<FrameView> {
  return { now: now(), since: newestMessageId(), handsets: await handsetSummaries(), vault: await vaultSize() };
}
