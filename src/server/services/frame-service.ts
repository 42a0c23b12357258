import 'server-only';
import type { HandsetSummary } from '@/contracts/handset-view';
import { vaultSize } from '../vault/vault';
import { now } from './clock';
import type { Due } from '@/core/schedule/dues';
import { duesNow } from './due-service';
import { handsetSummaries } from './bench-service';
import { newestMessageId } from './message-bus';
import { ownPractice } from './practice-self';
import { isDemo } from './try-it-service';

export interface FrameView {
  readonly now: number;
  readonly since: number;
  readonly handsets: readonly HandsetSummary[];
  readonly dues: readonly Due[];
  /** When the next wait ends. */
  readonly nextDueAt: number | null;
  /** The demo made this world: there are pieces of work to try. */
  readonly demo: boolean;
  /** This is practice: what of, and where its own Eterno is. */
  readonly practice: { readonly title: string; readonly home: string; readonly pace: number } | null;
  readonly vault: { readonly files: number; readonly bytes: number };
}

/** What the frame around every room shows. */
export async function frameView(): Promise<FrameView> {
  const { dues, nextAt } = await duesNow();
  const own = ownPractice();
  return {
    now: now(),
    since: newestMessageId(),
    handsets: await handsetSummaries(),
    dues,
    nextDueAt: nextAt,
    demo: await isDemo(),
    practice: own && { title: own.title, home: own.home, pace: own.scene.pace },
    vault: await vaultSize(),
  };
}
