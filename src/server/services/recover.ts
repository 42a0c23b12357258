import 'server-only';
import { mendRows } from '../db/mend-rows';
import { appendEvent, interruptRunningJobs } from '../repositories/event-repository';
import { dropLeases } from '../repositories/lease-repository';
import { runningSteps } from '../repositories/round-repository';
import { sweepVault } from '../vault/vault';
import { sweepIncoming } from './incoming';
import { now } from './clock';
import { interruptStep } from '../rounds/over-link';

/** Runs once when the server starts: finds what an earlier end left half done. */
export async function recover(): Promise<{ steps: number; jobs: number; swept: number }> {
  // first of all: what follows reads rows
  const aside = await mendRows(now());
  if (aside)
    await appendEvent({
      at: now(),
      handsetId: null,
      roundId: null,
      kind: 'rows-set-aside',
      data: { version: 1, ...aside },
    });
  const steps = await runningSteps();
  for (const step of steps) await interruptStep(step);
  await dropLeases();
  await sweepIncoming();
  return { steps: steps.length, jobs: await interruptRunningJobs(now()), swept: await sweepVault() };
}
