import type { Evidence } from '@/contracts/round-view';
import { LANE_STEPS, ONE_IMAGE_ONCE } from '@/core/lanes/one-image-once';
import { appendEvent } from '@/server/repositories/event-repository';
import { insertFacts, insertHandset, setSlotContent, writeSecret } from '@/server/repositories/handset-repository';
import { recordBuild } from '@/server/repositories/image-repository';
import { insertRound } from '@/server/repositories/round-repository';
import type { DemoHandset } from './world';
import { at, fingerprintOf, HANDSETS, PAST_ROUNDS } from './world';

async function putOnBench(handset: DemoHandset, index: number): Promise<void> {
  const { id, name, model, rootPartition, slotCount, link, brand, installed, serial, builds } = handset;
  await insertHandset({ id, name, model, rootPartition, slotCount, link, createdAt: at('2026-02-02T10:00:00Z') + index });
  await writeSecret(id, 'serial', serial);
  const facts: Record<string, string | number | boolean | null> = {
    fingerprint: fingerprintOf(installed, brand),
    device: installed.device,
    model,
    buildId: installed.buildId,
    incrementalVersion: installed.incremental,
    release: installed.release,
    sdk: handset.sdk,
    patchLevel: installed.patchLevel,
    firstApiLevel: handset.firstApiLevel,
    slotCount,
    currentSlot: handset.slot,
    unlocked: handset.unlocked,
    bootloader: handset.bootloader,
    baseband: handset.baseband,
  };
  const told = Object.entries(facts).filter(([, value]) => value !== null);
  await insertFacts(
    id,
    told.map(([key, value]) => ({ key, value: String(value) })),
    link === 'stand-in' ? 'link' : 'pasted',
    at(handset.factsAt),
  );
  for (const [time, state, why] of handset.root)
    await appendEvent({ at: at(time), handsetId: id, roundId: null, kind: 'root', data: { version: 1, state, why } });
  for (const build of builds) {
    const { product, device, buildId, patchLevel, publishedAt } = build;
    await recordBuild({ fingerprint: fingerprintOf(build, brand), product, device, buildId, patchLevel, publishedAt });
  }
}

async function recordPastRound({ handset, kind, title, openedAt, seconds }: (typeof PAST_ROUNDS)[number]): Promise<void> {
  const { id, link, rootPartition } = HANDSETS[handset]!;
  const opened = at(openedAt);
  let time = opened;
  const about = { handset: HANDSETS[handset]!.name, partition: rootPartition, slot: 'a', build: 'the build of that day' };
  const steps = LANE_STEPS.map((step, i) => {
    const startedAt = time;
    time += seconds[i]! * 1000;
    const actor = step.mode === 'computer' ? ('computer' as const) : link === 'stand-in' ? ('link' as const) : ('hand' as const);
    const evidence: Evidence[] = [{ what: step.text(about).see, strength: actor === 'hand' && step.key !== 'prove-root' ? 'weak' : 'strong' }];
    return { key: step.key, state: 'done' as const, startedAt, endedAt: time, actor, evidence: JSON.stringify(evidence) };
  });
  const round = await insertRound(
    { handsetId: id, kind, lane: ONE_IMAGE_ONCE.id, title, state: 'closed', version: 10, overrides: '[]', openedAt: opened, closedAt: time },
    steps,
  );
  await appendEvent({ at: time, handsetId: id, roundId: round.id, kind: 'round-closed', data: { version: 1, title } });
}

/** Handsets, their facts, builds, root history and past rounds. */
export async function recordWorld(octoberPatchedSha256: string): Promise<void> {
  for (const [index, handset] of HANDSETS.entries()) await putOnBench(handset, index);
  for (const round of PAST_ROUNDS) await recordPastRound(round);
  const { id } = HANDSETS[0]!;
  const when = at('2026-11-09T18:20:00Z');
  await setSlotContent({
    handsetId: id,
    slot: 'a',
    partition: 'init_boot',
    sha256: null,
    certainty: 'predicted',
    reason: 'the November update wrote its own stock image',
    at: when,
  });
  await setSlotContent({
    handsetId: id,
    slot: 'b',
    partition: 'init_boot',
    sha256: octoberPatchedSha256,
    certainty: 'read',
    reason: 'read back on 8 October',
    at: at('2026-10-08T09:31:00Z'),
  });
}
