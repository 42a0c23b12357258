import { randomUUID } from 'node:crypto';
import type { HandsetState } from '@/core/handset/state';
import type { StandInStore } from './stand-in-store';

/** What the computer's end of the cable can see of a simulated handset, whatever it is: its comings and starts. */
export class OnTheCable {
  /** With every change of what it is, and each time that one which loops starts over. */
  comings = 0;

  private constructor(
    private readonly store: StandInStore,
    /** Null while no system runs. */
    public bootId: string | null,
  ) {}

  /** A system that runs already has a name, kept or made now. */
  static async open(store: StandInStore, { mode }: HandsetState): Promise<OnTheCable> {
    const kept = mode === 'system' ? await store.readBootId() : null;
    const cable = new OnTheCable(store, kept);
    if (mode === 'system' && kept === null) await cable.begin();
    return cable;
  }

  /**
   * Counts what an operation made of it; what is kept is written when this is over. A folder that is gone
   * keeps nothing.
   */
  async saw(before: HandsetState, { mode }: HandsetState): Promise<void> {
    if (mode !== before.mode || mode === 'looping') this.comings += 1;
    if (mode === before.mode) return;
    if (mode === 'system') await this.begin();
    else this.bootId = null;
  }
  private async begin(): Promise<void> {
    this.bootId = randomUUID();
    await this.store.writeBootId(this.bootId).catch(() => undefined);
  }
}
