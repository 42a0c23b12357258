import type { Clock } from '@/core/clock';
import { sleep } from '@/core/clock';

/** A simulated handset's own time. What is still to come on it ends with it. */
export class OwnTime implements Clock {
  private readonly toCome = new Set<() => void>();
  /** What was waited for so far, in its own milliseconds, however quick they pass. */
  waitedMs = 0;

  constructor(private readonly clock: Clock) {}

  now(): number {
    return this.clock.now();
  }
  after(ms: number, work: () => void): () => void {
    const callOff = () => {
      off();
      this.toCome.delete(callOff);
    };
    const off = this.clock.after(ms, () => {
      this.toCome.delete(callOff);
      this.waitedMs += ms;
      work();
    });
    this.toCome.add(callOff);
    return callOff;
  }
  /** Goes on after the handset has ended: who waits looks whether it still is. */
  async sleep(ms: number): Promise<void> {
    await sleep(this.clock, ms);
    this.waitedMs += ms;
  }
  end(): void {
    for (const callOff of this.toCome) callOff();
  }
}
