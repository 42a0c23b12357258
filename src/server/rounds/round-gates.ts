import 'server-only';
import { lackingOf } from '@/core/backups/backup-set';
import type { NotStock } from '@/core/words/gates';
import { fitPackage } from '@/core/fit/fit-package';
import { packageClaim } from '@/core/fit/package-claim';
import { rootAppJudged } from '@/core/bench/root-app-judged';
import type { Check } from '@/core/gates/check';
import type { StepGateInput } from '@/core/gates/step-gates';
import { stepGates } from '@/core/gates/step-gates';
import { regionFound, setHistory } from '@/core/packages/region-part';
import { DEEDS, GATED, LISTING, CUSTOM_RECOVERY, STARTING } from '@/core/steps/deeds';
import { backupsOf } from '../repositories/record-repository';
import { isWhole } from '../vault/vault';
import { now } from '../services/clock';
import { installedOf } from '../services/fact-service';
import type { KeptImage, KeptKit } from '@/core/bench/bench';
import { BACKUP_MAX_DAYS, fullPackageOf, kitFits, kitItem, rootOf } from '@/core/bench/judgements';
import { bootloaderLevel, bringsBootloader, wholeMissing, wholePackage } from '@/core/bench/whole-build';
import type { WriteGateInput } from '@/core/gates/write-gates';
import type { StepKey } from '@/core/steps/step-key';
import type { NewStep, RoundStep } from '@/core/rounds/round';
import type { RoundContext } from './round-context';
import { buildOfStep, imageOf, ownRecovery, stockFor, stockOf } from './round-context';
import { isKnown } from '@/core/ways/speak';
import { mayHaveWritten } from './step-writes';
import { imageFacts } from './image-facts';
import { packageImages } from './judged-parts';
import { batteryEnough } from './executors/running';
import type { Listed } from '@/core/link/handset-link';
import { isCableHeld } from '../services/cable-desk';
import { listedNow } from '../services/link-service';
import { hostToolOf, ownCommands } from '../services/vocabulary-service';

const DAY_MS = 86_400_000;

function partitionSize({ facts }: RoundContext, partition: string | null, slot: string): number | null {
  if (partition === null) return null;
  return facts.partitions[`${partition}_${slot}`]?.size ?? facts.partitions[partition]?.size ?? null;
}

/** A linked handset that stands there already needs no step to be seen. */
const standsThere = (line: Listed | null) =>
  line !== null && line.mode !== 'system' && line.mode !== 'sideload';

/** A reading of the battery counts for an hour. */
const BATTERY_MS = 3_600_000;
/**
 * As the handset says it now where it is listed, else as it was read within the last hour; null where neither
 * is.
 */
function batteryNow({ known: { resolved, typed } }: RoundContext, line: Listed | null): boolean | null {
  const live = line && batteryEnough(line);
  if (live !== null) return live;
  const told = resolved.find(({ key }) => key === 'batteryOk');
  return told && now() - told.at <= BATTERY_MS ? typed.batteryOk : null;
}

/** Why the person keeps nothing, as they said it at the step that asks. */
function nothingToKeep({ steps }: RoundContext): string | null {
  const said = steps.find((one) => one.key === 'back-up' && one.state === 'done');
  return said?.evidence[0]?.nothingKept ?? null;
}

/**
 * The system was seen to start, unlocked, after the last write of the round; where the round has written nothing,
 * the one that runs was.
 */
function startedSinceWrite({ steps, facts }: RoundContext): boolean {
  const done = steps.filter(({ state }) => state === 'done');
  const written = done.findLastIndex(({ key }) => DEEDS[key].writes !== null);
  if (done.slice(written + 1).some(({ key }) => STARTING.includes(key))) return true;
  return written === -1 && facts.fingerprint !== null && done.some(({ key }) => key === 'read-facts');
}

/** What a step overwrites beside root, and the vault has not got of what lies there. */
export function partsMissing(context: RoundContext, step: NewStep): string[] {
  const { recoveryHome, rootPartition } = context;
  const written = new Set(mayHaveWritten(context, step).map(({ partition }) => partition));
  return ['bootloader', 'radio', recoveryHome].flatMap((partition) =>
    partition !== null &&
    partition !== rootPartition &&
    written.has(partition) &&
    stockOf(context, partition, step.planned.build) === null
      ? [partition]
      : [],
  );
}

/** The region part of the set that a step writes; a step that writes none has nothing to choose. */
function regionOf({ bench, facts, round }: RoundContext, step: NewStep): StepGateInput['region'] {
  const { writes } = DEEDS[step.key];
  const build = buildOfStep({ round }, step, 'the target');
  const set = writes?.parts === undefined ? undefined : wholePackage(bench, build)?.report.set;
  return regionFound(set, writes?.parts?.wipes === true, setHistory(facts.fingerprint, build));
}

/** What of the slots is not known to be the maker's own of the wanted build. */
function notStock({ subject, bench, round, slotCount }: RoundContext): NotStock[] {
  const whole = bench.images.filter((image) => image.role === 'stock' && image.fingerprint === round.target);
  const slots = slotCount === 2 ? ['a', 'b'] : [null];
  const partitions = [
    ...new Set([...subject.cells.map((cell) => cell.partition), ...whole.map((image) => image.partition)]),
  ];
  return slots.flatMap((slot) =>
    partitions.flatMap((partition): NotStock[] => {
      const cell = subject.cells.find((one) => one.partition === partition && one.slot === (slot ?? '-'));
      if (!cell) return [{ partition, slot, why: 'never-seen' }];
      return whole.some((image) => image.sha256 === cell.sha256) ? [] : [{ partition, slot, why: 'other' }];
    }),
  );
}

/** The kit that made the image, or the one that what is patched on the way is patched with. */
function kitOf(
  { bench, rootPartition }: RoundContext,
  step: NewStep,
  image: KeptImage | null,
): KeptKit | undefined {
  if (image?.kit) return bench.kits.find((row) => kitItem(row) === image.kit);
  if (step.key !== 'patch-other-slot') return undefined;
  return bench.kits.find((row) => kitFits(row, rootPartition, null));
}

/** What lies on the slot when the step begins: the installed build, or the one that this round has put there. */
function lyingThere({ facts }: RoundContext, { planned: { build } }: NewStep): WriteGateInput['installed'] {
  return build === facts.fingerprint || facts.fingerprint === null
    ? facts
    : { fingerprint: build, device: facts.device, patchLevel: null };
}

/** What the model's sheet names as the least; a guess names nothing. */
function leastOf(
  { subject }: RoundContext,
  id: 'least-tool' | 'least-kit' | 'least-recovery',
): string | null {
  const way = subject.ways(id);
  return isKnown(way) ? way.value : null;
}

async function writeInput(
  context: RoundContext,
  step: NewStep,
  line: Listed | null,
): Promise<WriteGateInput> {
  const { facts, known, bench, rootPartition, recoveryHome, slotCount } = context;
  const image = imageOf(context, step);
  const toRecovery = CUSTOM_RECOVERY.includes(step.key) || DEEDS[step.key].writes?.what === 'recovery';
  const partition = toRecovery ? recoveryHome : rootPartition;
  const kit = kitOf(context, step, image);
  const stock = stockFor(context, step);
  return {
    partition,
    image: image && (await imageFacts(context, step, image)),
    stockKept: stock !== null && (await isWhole('images', stock.sha256)),
    rootPartition,
    recoveryHome,
    root: rootOf({ facts: known }, bench),
    contradictions: known.contradictions,
    installed: lyingThere(context, step),
    unlocked: facts.unlocked,
    activeSlot: slotCount === 2 ? facts.currentSlot : null,
    slotCount: facts.slotCount,
    batteryOk: batteryNow(context, line),
    partitionBytes: partitionSize(context, partition, step.planned.slot),
    kitSupports: kit
      ? { name: `${kit.name} ${kit.version}`, version: kit.version, sdk: kit.supports.sdk }
      : null,
    recoveryVersion: bench.recoveries.find((row) => row.sha256 === ownRecovery(context))?.version ?? null,
    least: { kit: leastOf(context, 'least-kit'), recovery: leastOf(context, 'least-recovery') },
    sdk: facts.sdk,
  };
}

/** What is known of the build that a step brings: its bootloader, where it writes one, or all of it. */
function targetInput(
  { bench, facts, known, rootPartition }: RoundContext,
  target: string,
  writesOne: boolean,
) {
  const system = bench.images.find(
    (one) => one.role === 'stock' && one.partition === rootPartition && one.fingerprint === target,
  );
  const packaged = fullPackageOf(bench, target);
  return {
    bootloader:
      writesOne || bringsBootloader(bench, target)
        ? {
            level: bootloaderLevel(bench, target),
            versions: wholePackage(bench, target)?.report.build.requiredBootloader ?? [],
            running: facts.bootloader,
          }
        : null,
    buildLevel: bench.builds.find(({ fingerprint }) => fingerprint === target)?.patchLevel ?? null,
    wholeMissing: wholeMissing(bench, target, facts.partitions) ?? ['a package of all of it'],
    buildIndex: system?.report.avb?.rollbackIndex ?? null,
    packageFits: packaged
      ? fitPackage(packageClaim(packaged.report, packaged.fileName), installedOf(known))
      : null,
  };
}

async function backupInput(
  handsetId: string,
): Promise<Pick<StepGateInput, 'backupDays' | 'backupMaxDays' | 'backupLacks'>> {
  const last = (await backupsOf(handsetId)).find((row) => row.place === 'off the handset');
  return {
    backupDays: last ? Math.floor((now() - last.at) / DAY_MS) : null,
    backupMaxDays: BACKUP_MAX_DAYS,
    backupLacks: last?.parts ? lackingOf(last.what, last.parts) : null,
  };
}

/**
 * The checks before a step, with their evidence as it stands now.
 * @param maxAgeMs how old what the handset says may be: a page may be a little behind, a command may not
 */
export async function gatesOf(context: RoundContext, step: NewStep, maxAgeMs = 0): Promise<Check[]> {
  const { handset, known, slotCount, steps } = context;
  // a step that runs has the link to itself
  const line = steps.some(({ state }) => state === 'running') ? null : await listedNow(handset, maxAgeMs);
  const number = (key: string) => (known.value(key) === null ? null : Number(known.value(key)));
  const alone = DEEDS[step.key].writes?.what === 'bootloader' ? (DEEDS[step.key].image ?? null) : null;
  const isDone = (keys: readonly StepKey[]) =>
    steps.some((one) => keys.includes(one.key) && one.state === 'done');
  return stepGates(step.key, {
    write: await writeInput(context, step, line),
    ...targetInput(context, buildOfStep(context, step, alone?.of ?? 'the target'), alone !== null),
    partsMissing: partsMissing(context, step),
    packageImages: await packageImages(context, step),
    region: regionOf(context, step),
    makerFloor: known.value('makerFloor'),
    snapshot: known.value('snapshot') ?? (slotCount === 1 ? 'none' : null),
    fuse: number('antiRollback'),
    ...(await backupInput(handset.id)),
    nothingToKeep: nothingToKeep(context),
    unlockSwitch: known.value('unlockAllowed'),
    notStock: step.key === 'lock' ? notStock(context) : [],
    startedUnlocked: startedSinceWrite(context),
    storedIndex: number('storedIndex'),
    tool: handset.link === 'stand-in' || isCableHeld(handset.id) ? 'own' : hostToolOf(await ownCommands()),
    leastTool: leastOf(context, 'least-tool'),
    listed: isDone(LISTING) || standsThere(line),
    rootApp: rootAppJudged(context.subject, context.bench, context.rootPartition),
  });
}

/** The step whose checks a person reads now: at "check" the first that has any after it. */
export function gatedStep({ steps }: RoundContext, step: RoundStep): RoundStep | null {
  if (step.key !== 'check') return GATED.includes(step.key) ? step : null;
  return steps.slice(steps.indexOf(step)).find(({ key }) => GATED.includes(key)) ?? null;
}
