import { NO_WAYS } from '@/core/ways/way-kinds';
import { recordWays } from './demo-ways';
import { installedText } from '@/core/modules/installed';
import type { Evidence } from '@/core/rounds/evidence';
import type { StepKey } from '@/core/steps/step-key';
import type { StepAbout } from '@/core/steps/step-kind';
import { STEP_KINDS } from '@/core/steps/step-table';
import { appendEvent } from '@/server/repositories/event-repository';
import {
  addSlotContent,
  insertFacts,
  insertHandset,
  writeSecret,
} from '@/server/repositories/handset-repository';
import { keepEntries } from '@/server/repositories/calendar-repository';
import { recordBuild } from '@/server/repositories/image-repository';
import { insertNote } from '@/server/repositories/module-repository';
import { plannedBefore } from '@/server/db/decode';
import { insertRound } from '@/server/repositories/round-repository';
import { saveWaitingRule } from '@/server/services/calendar-service';
import type { MadeHandsets } from './demo-handsets';
import { installedOn, recordModules } from './demo-modules';
import { recordShelves } from './demo-shelves';
import type { DemoHandset } from './world';
import type { PastRound } from './world';
import { at, fingerprintOf, HANDSETS, PAST_ROUNDS } from './world';

type Told = Readonly<Record<string, string | number | boolean | null>>;
const told = (facts: Told) =>
  Object.entries(facts)
    .filter(([, value]) => value !== null)
    .map(([key, value]) => ({ key, value: String(value) }));

export async function putOnBench(handset: DemoHandset, index: number): Promise<void> {
  const { id, name, model, rootPartition, slotCount, profile, brand, installed, serial, builds } = handset;
  const link = handset.byHand
    ? { link: 'hand' as const, profile: null }
    : { link: 'stand-in' as const, profile };
  await insertHandset({
    id,
    name,
    model,
    rootPartition,
    slotCount,
    ...link,
    createdAt: at('2026-02-02T10:00:00Z') + index,
  });
  await writeSecret(id, 'serial', serial);
  const system: Told = {
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
    unlocked: handset.hidesLock ? false : handset.unlocked,
    unlockAllowed: handset.unlockSwitch,
    bootloader: handset.bootloader,
    baseband: handset.baseband,
    encrypted: true,
    modules: installedText(
      handset.root.some(([, state]) => state === 'proven') ? installedOn(handset.profile) : [],
    ),
    verifiedBootState: handset.unlocked ? (handset.hidesLock ? 'green' : 'orange') : 'green',
  };
  const bootloader: Told = {
    device: installed.device,
    slotCount,
    currentSlot: handset.slot,
    unlocked: handset.unlocked,
    bootloader: handset.bootloader,
    baseband: handset.baseband,
    batteryOk: true,
    antiRollback: handset.fuse,
    ...handset.more,
    snapshot: handset.slot === null ? null : 'none',
    ...(handset.slot === null ? {} : { 'slot-successful:a': true, 'slot-successful:b': true }),
  };
  const source = handset.live ? ('link' as const) : ('pasted' as const);
  await insertFacts(id, told(bootloader), {
    source,
    witness: 'bootloader',
    at: at(handset.factsAt) - 600_000,
  });
  await insertFacts(id, told(system), { source, witness: 'system', at: at(handset.factsAt) });
  if (handset.typed)
    await insertFacts(id, told(handset.typed), {
      source: 'typed',
      witness: 'person',
      at: at(handset.factsAt) + 60_000,
    });
  for (const [time, state, why] of handset.root)
    await appendEvent({
      at: at(time),
      handsetId: id,
      roundId: null,
      kind: 'root',
      data: { version: 1, state, why },
    });
  for (const build of builds) {
    const { product, device, buildId, patchLevel, publishedAt } = build;
    await recordBuild({
      fingerprint: fingerprintOf(build, brand),
      product,
      device,
      buildId,
      patchLevel,
      publishedAt,
    });
  }
}

/** The steps of the lane that all past rounds went through, in its order. */
const PAST_STEPS = [
  'read-facts',
  'open-installed-package',
  'take-stock',
  'patch',
  'bootloader',
  'check',
  'write-root',
  'start',
  'prove-root',
  'close',
] as const satisfies readonly StepKey[];
const ON_COMPUTER: readonly StepKey[] = ['open-installed-package', 'take-stock', 'patch', 'check', 'close'];

async function recordPastRound({
  handset,
  kind,
  title,
  openedAt,
  seconds,
  state = 'closed',
  lane,
  note,
  notAgain,
  sameAgain,
  month,
}: PastRound): Promise<void> {
  const { id, live, rootPartition, builds, brand } = HANDSETS[handset]!;
  const build = month === undefined ? undefined : builds.find((one) => one.buildId.includes(month));
  const opened = at(openedAt);
  let time = opened;
  const about: StepAbout = {
    handset: HANDSETS[handset]!.name,
    partition: rootPartition,
    recoveryHome: 'recovery',
    slot: 'a',
    otherSlot: 'b',
    bothSlots: false,
    build: 'the build of that day',
    target: 'the build of that day',
    unlockPath: 'command',
    recovery: 'Lifeboat',
    ownRecovery: false,
    install: 'the package',
    modulesOff: [],
    unknown: [],
    ways: NO_WAYS,
  };
  const steps = PAST_STEPS.slice(0, seconds.length).map((key, i) => {
    const startedAt = time;
    time += seconds[i]! * 1000;
    const actor = ON_COMPUTER.includes(key)
      ? ('computer' as const)
      : live
        ? ('link' as const)
        : ('hand' as const);
    const evidence: Evidence[] = [
      {
        what: STEP_KINDS[key].text(about).see,
        strength: actor === 'hand' && key !== 'prove-root' ? 'weak' : 'strong',
      },
    ];
    return {
      key,
      state: 'done' as const,
      startedAt,
      endedAt: time,
      actor,
      evidence,
      planned: plannedBefore(key),
    };
  });
  const round = await insertRound(
    {
      handsetId: id,
      kind,
      lane: 'one-image-once',
      title,
      target: build ? fingerprintOf(build, brand) : null,
      plan: {
        version: 1,
        compared: lane ? [{ title: lane, minutes: [30, 90], wipes: 0, restarts: 1, chosen: true }] : [],
      },
      basedOn: null,
      state,
      version: 10,
      overrides: [],
      openedAt: opened,
      closedAt: time,
      again: sameAgain ? 'yes' : notAgain ? 'no' : null,
      againNote: notAgain ?? null,
    },
    steps,
  );
  if (note)
    await insertNote({
      roundId: round.id,
      stepId: null,
      text: note,
      picture: null,
      mediaType: null,
      at: time,
    });
  await appendEvent({
    at: time,
    handsetId: id,
    roundId: round.id,
    kind: state === 'closed' ? 'round-closed' : 'round-given-up',
    data: { version: 1, title },
  });
}

const OCTOBER_PROVED = at('2026-10-08T09:31:00Z');
const NOVEMBER_TAKEN = at('2026-11-09T18:20:00Z');

/** What lies on North gate's slots, as it came about. */
async function recordSlots({
  octoberPatched,
  octoberStock,
  octoberBoot,
  ridgePatched,
  barnPatched,
}: MadeHandsets): Promise<void> {
  const { id } = HANDSETS[0]!;
  const entries = [
    [
      'b',
      'init_boot',
      octoberStock,
      'predicted',
      'the October update wrote its own stock image',
      at('2026-10-08T08:50:00Z'),
    ],
    ['b', 'init_boot', octoberPatched, 'predicted', 'written over the link', at('2026-10-08T09:24:00Z')],
    ['b', 'init_boot', octoberPatched, 'read', 'read back with root', OCTOBER_PROVED],
    ['b', 'boot', octoberBoot, 'read', 'read back with root', OCTOBER_PROVED],
    ['a', 'init_boot', null, 'predicted', 'the November update wrote its own stock image', NOVEMBER_TAKEN],
    ['a', 'boot', null, 'predicted', 'the November update wrote its own stock image', NOVEMBER_TAKEN],
  ] as const;
  for (const [slot, partition, sha256, certainty, reason, when] of entries)
    await addSlotContent({ handsetId: id, slot, partition, sha256, certainty, reason, at: when });
  const others = [
    [1, 'b', ridgePatched, at('2026-10-09T17:19:00Z')],
    [2, '-', barnPatched, at('2026-04-04T10:58:00Z')],
    [4, 'a', ridgePatched, at('2026-10-11T15:38:00Z')],
  ] as const;
  for (const [index, slot, sha256, when] of others)
    await addSlotContent({
      handsetId: HANDSETS[index]!.id,
      slot,
      partition: 'boot',
      sha256,
      certainty: 'read',
      reason: 'read back with root',
      at: when,
    });
}

/** The club's own days, and how it waits. */
async function recordDays(): Promise<void> {
  await keepEntries([
    {
      uid: 'ridge-survey-2026@hill-club.example',
      what: 'Ridge survey: nothing is changed',
      startsAt: at('2026-11-14T00:00:00Z'),
      endsAt: at('2026-11-16T00:00:00Z'),
      quiet: 'yes',
      at: at('2026-10-20T09:00:00Z'),
    },
    {
      uid: 'hut-evening-2026@hill-club.example',
      what: 'Hut evening',
      startsAt: at('2026-11-20T18:00:00Z'),
      endsAt: at('2026-11-20T22:00:00Z'),
      quiet: 'no',
      at: at('2026-10-20T09:00:00Z'),
    },
  ]);
  await saveWaitingRule(HANDSETS[1]!.id, { days: 7, kit: true, modules: 0 });
  await saveWaitingRule(HANDSETS[2]!.id, { days: 30, kit: false, modules: 0 });
}

/** Handsets, their facts, builds, root history and past rounds. */
export async function recordWorld(hashes: MadeHandsets): Promise<void> {
  for (const [index, handset] of HANDSETS.entries()) await putOnBench(handset, index);
  for (const round of PAST_ROUNDS) await recordPastRound(round);
  await recordSlots(hashes);
  await recordShelves(hashes.lifeboat);
  await recordModules();
  await recordDays();
  await recordWays();
}
