import type { Clock } from '@/core/clock';
import { sleep } from '@/core/clock';

/** A simulated handset's own time. What is still to come on it ends with it. */
export class OwnTime implements Clock {
  private readonly toCome = new Set<() => void>();

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
      work();
    });
    this.toCome.add(callOff);
    return callOff;
  }
  /** Goes on after the handset has ended: who waits looks whether it still is. */
  sleep(ms: number): Promise<void> {
    return sleep(this.clock, ms);
  }
  end(): void {
    for (const callOff of this.toCome) callOff();
  }
}
