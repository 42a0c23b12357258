import 'server-only';
import type { BarredRepair, RescueCase, RescueView } from '@/contracts/rescue-view';
import { flagSaid } from '@/core/facts/flag-said';
import type { Bench } from '@/core/bench/bench';
import { kitFits, kitOnIt, nextBuild, recoveriesShelved, recoveryOf, rootOf } from '@/core/bench/judgements';
import { judgeModules, modulesOf } from '@/core/bench/modules-judged';
import { contextOf } from '@/core/bench/planning-context';
import { stockImageOf } from '@/core/bench/root-image';
import { wholeMissing, wholePackage } from '@/core/bench/whole-build';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { CaseCounts } from '@/core/rescue/belief';
import { CAUSE_IDS } from '@/core/rescue/causes';
import { healthy, someOf } from '@/core/rescue/healthy';
import type { LateWrite, RescueRecord } from '@/core/rescue/record';
import { NO_RECORD } from '@/core/rescue/record';
import type { Works } from '@/core/rescue/repairs';
import { worksOn } from '@/core/rescue/repairs';
import type { RoundStep } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import type { ClassId } from '@/core/ways/classes';
import { CLASSES, CLASS_IDS } from '@/core/ways/classes';
import type { CauseId, RepairId } from '@/core/words/rescue';
import { eventsOf } from '../repositories/event-repository';
import { listRounds, openRoundOf, stepsOf } from '../repositories/round-repository';
import type { KnownHandset } from './bench-reading';
import { needHandset, readBench, readSubject, readSubjects } from './bench-reading';
import { now } from './clock';
import { imageFileName } from './image-view';
import { learnt } from './learnt-service';
import { isLinked, listedNow } from './link-service';
import { isBackByRound, keptCase, linesCured, openCases, pastCases } from './rescue-cases';
import { handsetClass } from './way-service';

/* A handset in trouble: what its record says, and which repairs would work on it. */

const WHAT: Readonly<Record<string, LateWrite['what']>> = {
  root: 'root',
  recovery: 'recovery',
  bootloader: 'bootloader',
  'whole build': 'whole build',
};

/** What the last round wrote after the system was last seen to start in it. */
function lateWrites(steps: readonly RoundStep[], recoveryHome: string | null): LateWrite[] {
  const seen = steps.findLastIndex(({ key, state }) => DEEDS[key].starts === true && state === 'done');
  return steps.slice(seen + 1).flatMap(({ key, state, evidence }): LateWrite[] => {
    const { writes } = DEEDS[key];
    if (writes === null || state === 'waiting') return [];
    const what = WHAT[writes.what] ?? 'other';
    return [
      {
        what: what === 'recovery' && recoveryHome === 'vendor_boot' ? 'vendor-boot' : what,
        proved: state === 'done' && evidence.some(({ strength }) => strength === 'strong'),
        cutShort: state === 'failed' || state === 'interrupted',
      },
    ];
  });
}

const LATELY_MS = 7 * 86_400_000;
/** What the handset says may be so old on a page. */
const PAGE_MS = 3000;

function moduleChance(subject: KnownHandset, bench: Bench): number | null {
  const { fingerprint } = subject.facts.typed;
  const own = modulesOf(subject);
  if (subject.facts.value('modules') === null || fingerprint === null) return null;
  const { modules } = judgeModules(bench, own, fingerprint, fingerprint);
  return modules.reduce((most, { chance }) => Math.max(most, chance.mean), 0);
}

function fitsRelease(subject: KnownHandset, bench: Bench): boolean | null {
  const { partition } = rootOf(subject, bench);
  const kit = kitOnIt(subject, bench, partition);
  const { sdk } = subject.facts.typed;
  return kit === null || sdk === null || kit.supports.sdk === null ? null : kitFits(kit, partition, sdk);
}

function opensStorage(subject: KnownHandset, bench: Bench): boolean | null {
  const [own] = recoveriesShelved(subject, bench);
  const { sdk } = subject.facts.typed;
  return own === undefined || own.opensUpTo === null || sdk === null ? null : own.opensUpTo >= sdk;
}

/** What happened to it lately: the last round, and what failed. */
async function happened({ handset }: KnownHandset, recoveryHome: string | null) {
  const [round] = await listRounds(handset.id);
  const steps = round ? await stepsOf([round.id]) : [];
  const failed = await eventsOf('step-failed', { handsetId: handset.id });
  const slips = round ? await eventsOf('slip', { roundId: round.id }) : [];
  const done = (key: RoundStep['key']) => steps.some((step) => step.key === key && step.state === 'done');
  const writes = lateWrites(steps, recoveryHome);
  return {
    writes,
    linesLost: failed.filter(({ at, data }) => now() - at < LATELY_MS && data.error?.code === 'link-lost')
      .length,
    earlyRestart: slips.some(({ data }) => data.slip === 'early restart'),
    slotSelected: done('other-slot'),
    wentDown: round?.kind === 'downgrade' && writes.length > 0,
  };
}

/** A cable or a program that was to blame once is the first to be looked at the next time. */
const causesBefore = async (handsetId: string): Promise<CauseId[]> =>
  (await eventsOf('rescue-closed', { handsetId })).flatMap(({ data }) => data.cause ?? []);

async function recordOf(subject: KnownHandset, bench: Bench): Promise<RescueRecord> {
  const { facts, root, handset } = subject;
  const snapshot = facts.value('snapshot');
  const { home } = recoveryOf(subject, bench, rootOf(subject, bench));
  return {
    ...(await happened(subject, home)),
    slotCount: facts.typed.slotCount,
    slotDisputed: facts.contradictions.some(({ key }) => key === 'currentSlot'),
    snapshot: snapshot === 'none' || snapshot === 'snapshotted' || snapshot === 'merging' ? snapshot : null,
    moduleChance: moduleChance(subject, bench),
    kitFits: fitsRelease(subject, bench),
    batteryPercent: (await listedNow(handset, PAGE_MS))?.batteryPercent ?? null,
    restoresRecovery: flagSaid(facts.value('restoresRecovery')),
    recoveryOpens: opensStorage(subject, bench),
    unlocked: facts.typed.unlocked,
    debugging: null,
    rootOnDisk: root === 'proven' || root === 'unproven' ? true : null,
    before: await causesBefore(handset.id),
  };
}

/** Repairs that want a file which is not there. */
function barredOn(subject: KnownHandset, bench: Bench): BarredRepair[] {
  const { fingerprint, partitions } = subject.facts.typed;
  const { partition } = rootOf(subject, bench);
  const number = fingerprint === null ? 'its build' : (splitFingerprint(fingerprint)?.id ?? fingerprint);
  const has = (of: string | null) =>
    of !== null && fingerprint !== null && stockImageOf(bench, of, fingerprint) !== null;
  const missing = fingerprint === null ? null : wholeMissing(bench, fingerprint, partitions);
  const newer = nextBuild(subject, bench);
  const from = `take it out of the package of ${number}`;
  const lacks: readonly (readonly [RepairId, boolean, string])[] = [
    ['stock-image', has(partition), `The stock ${partition ?? 'image'} is not in the vault: ${from}.`],
    ['vendor-boot', has('vendor_boot'), `The stock vendor_boot is not in the vault: ${from}.`],
    [
      'whole-build',
      missing?.length === 0,
      `Not every image of ${number} is in the vault: open its whole package.`,
    ],
    [
      'newer-build',
      newer !== null && wholeMissing(bench, newer.fingerprint, partitions)?.length === 0,
      'No newer whole build is in the vault.',
    ],
    [
      'recovery-again',
      recoveriesShelved(subject, bench).length > 0,
      'No recovery that is made for it is on the shelf.',
    ],
    [
      'other-kit',
      bench.kits.filter((kit) => kitFits(kit, partition, subject.facts.typed.sdk)).length > 1,
      'No other kit for its release is in the vault.',
    ],
  ];
  return lacks.flatMap(([repair, there, why]) => (there ? [] : [{ repair, why }]));
}

/** The files that are here for each repair, by the names under which they are downloaded. */
function filesAtHand(subject: KnownHandset, bench: Bench): RescueCase['atHand'] {
  const { fingerprint } = subject.facts.typed;
  const { partition } = rootOf(subject, bench);
  const newer = nextBuild(subject, bench)?.fingerprint ?? null;
  const stock = (of: string | null, build: string | null) => {
    const image = of === null || build === null ? null : stockImageOf(bench, of, build);
    return image ? [imageFileName(image)] : [];
  };
  const packageOf = (build: string | null) => {
    const found = build === null ? null : wholePackage(bench, build);
    return found ? [found.fileName] : [];
  };
  const patched = bench.images.find(
    (image) => image.role === 'patched' && image.partition === partition && image.fingerprint === fingerprint,
  );
  const recovery = recoveriesShelved(subject, bench)[0];
  const own = bench.images.find(({ sha256 }) => sha256 === recovery?.sha256);
  return {
    'stock-image': stock(partition, fingerprint),
    'vendor-boot': stock('vendor_boot', fingerprint),
    'root-again': patched ? [imageFileName(patched)] : [],
    'recovery-again': own ? [imageFileName(own)] : [],
    'whole-build': packageOf(fingerprint),
    'newer-build': packageOf(newer),
    'right-package': packageOf(newer),
  };
}

const REPAIRING = {
  goal: 'repair',
  target: null,
  limits: { computer: true, wipeAllowed: true, keepFuse: false },
} as const;

/** By repair what it mends on this handset; null where too little of it is known. */
export async function worksOf(handsetId: string): Promise<Works | null> {
  const [subject, bench] = [await readSubject(await needHandset(handsetId)), await readBench()];
  const assumed = contextOf(subject, bench, REPAIRING, await learnt());
  return typeof assumed === 'string' ? null : worksOn(healthy(assumed.context), CAUSE_IDS);
}

async function caseOf(handsetId: string): Promise<RescueCase> {
  const [subject, bench] = [await readSubject(await needHandset(handsetId)), await readBench()];
  const { handset } = subject;
  const kept = await keptCase({ handsetId, like: null });
  const assumed = contextOf(subject, bench, REPAIRING, await learnt());
  const of = handsetClass(subject);
  const context =
    typeof assumed === 'string' ? someOf(of ?? 'two-slots-init-boot') : healthy(assumed.context);
  return {
    handset: { id: handset.id, name: handset.name, link: isLinked(handset) },
    about: typeof assumed === 'string' ? `${assumed} It is taken for one of its class.` : handset.model,
    record: await recordOf(subject, bench),
    works: worksOn(context, CAUSE_IDS),
    barred: barredOn(subject, bench),
    atHand: filesAtHand(subject, bench),
    roundId: (await openRoundOf(handset.id))?.id ?? null,
    kept,
    past: await pastCases(handset.id),
    backByRound: await isBackByRound(kept),
  };
}

const someCase = async (id: ClassId): Promise<RescueCase> => ({
  handset: null,
  about: CLASSES[id].title,
  record: { ...NO_RECORD, slotCount: id.startsWith('two') ? 2 : id.startsWith('one') ? 1 : null },
  works: worksOn(someOf(id), CAUSE_IDS),
  barred: [],
  atHand: {},
  roundId: null,
  kept: await keptCase({ handsetId: null, like: id }),
  past: [],
  backByRound: false,
});

async function countsOf(): Promise<CaseCounts> {
  const counts: Partial<Record<CauseId, number>> = {};
  for (const { data } of await eventsOf('rescue-closed'))
    if (data.cause !== null) counts[data.cause] = (counts[data.cause] ?? 0) + 1;
  return counts;
}

/**
 * @param handsetId the one that is in trouble; null for one of a class, or while none is chosen
 * @throws {EternoError} `not-found`
 */
export async function rescueView(handsetId: string | null, classId: ClassId | null): Promise<RescueView> {
  const open = await openCases();
  return {
    handsets: (await readSubjects()).map(({ handset, root }) => ({
      id: handset.id,
      name: handset.name,
      broken: root === 'broken',
      open: open.has(handset.id),
    })),
    classes: CLASS_IDS.map((id) => ({ id, title: CLASSES[id].title, open: open.has(id) })),
    chosen: handsetId !== null ? await caseOf(handsetId) : classId !== null ? await someCase(classId) : null,
    counts: await countsOf(),
    cures: await linesCured(),
  };
}
