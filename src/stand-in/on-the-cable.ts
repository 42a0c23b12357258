import { randomUUID } from 'node:crypto';
import type { HandsetState } from '@/core/handset/state';
import type { StandInStore } from './stand-in-store';

/** What the computer's end of the cable can see of a simulated handset, whatever it is: its comings and starts. */
export class OnTheCable {
  /** With every change of what it is, and each time that one which loops starts over. */
  comings = 0;

  private constructor(
    private readonly store: StandInStore,
    /** Null while no system runs, and for a start of before this was kept. */
    public bootId: string | null,
  ) {}

  static async open(store: StandInStore): Promise<OnTheCable> {
    return new OnTheCable(store, await store.readBootId());
  }

  /**
   * Counts what an operation made of it; what is kept is written when this is over. A folder that is gone
   * keeps nothing.
   */
  async saw(before: HandsetState, { mode }: HandsetState): Promise<void> {
    if (mode !== before.mode || mode === 'looping') this.comings += 1;
    if (mode === before.mode) return;
    this.bootId = mode === 'system' ? randomUUID() : null;
    await this.store.writeBootId(this.bootId).catch(() => undefined);
  }
}
