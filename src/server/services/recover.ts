import 'server-only';
import { interruptRunningJobs } from '../repositories/event-repository';
import { dropLeases } from '../repositories/lease-repository';
import { runningSteps } from '../repositories/round-repository';
import { sweepVault } from '../vault/vault';
import { sweepIncoming } from './incoming';
import { now } from './clock';
import { interruptStep } from './link-steps';

/** Runs once when the server starts: finds what an earlier end left half done. */
export async function recover(): Promise<{ steps: number; jobs: number; swept: number }> {
  const steps = await runningSteps();
  for (const step of steps) await interruptStep(step);
  await dropLeases();
  await sweepIncoming();
  return { steps: steps.length, jobs: await interruptRunningJobs(now()), swept: await sweepVault() };
}
