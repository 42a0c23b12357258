import 'server-only';
import type { Clock } from '@/core/clock';
import { sleep } from '@/core/clock';
import { machineClock } from '@/platform/node/machine-clock';

/** One for the whole process: the server holds several copies of a module. */
const held = globalThis as { eternoClock?: { clock: Clock; started: number; base: number } };
const current = () => (held.eternoClock ??= start(machineClock()));

/** `ETERNO_NOW` sets the clock's start, for demo data, tests and pictures; it then runs on. */
function start(clock: Clock) {
  const started = clock.now();
  return { clock, started, base: process.env.ETERNO_NOW ? Date.parse(process.env.ETERNO_NOW) : started };
}

/** From here on the process's time passes on this clock. */
export function runOnClock(clock: Clock): void {
  held.eternoClock = start(clock);
}

/** UTC milliseconds. */
export function now(): number {
  const { clock, started, base } = current();
  return base + (clock.now() - started);
}

/** Resolves once `ms` have passed. */
export const pause = (ms: number): Promise<void> => sleep(current().clock, ms);
