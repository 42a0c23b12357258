import 'server-only';
import { statfs } from 'node:fs/promises';
import type { Again, ImageBrief, RoundView, StepView } from '@/contracts/round-view';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { Override } from '@/core/gates/check';
import { batteryBudget, roomBudget, wipeLedger } from '@/core/rounds/budget';
import type { Evidence } from '@/core/rounds/evidence';
import { interlockOf } from '@/core/rounds/interlock';
import { signOff } from '@/core/rounds/sign-off';
import { STEP_KINDS } from '@/core/steps/step-table';
import { wayBackOf } from '@/core/vault/way-back';
import { dataDir } from '../db/data-dir';
import type { ImageRow, RoundRow } from '../db/models';
import { listEvents } from '../repositories/event-repository';
import { stepsOf } from '../repositories/round-repository';
import { rootOf, wayBackInput } from './judgements';
import { listJobs } from './jobs';
import { openPutBacks } from './put-back-service';
import { imageFileName } from './image-view';
import type { RoundContext, RoundStepRow } from './round-context';
import { aboutStep, imageOf, roundContext, stockFor } from './round-context';
import { gatedStep, gatesOf } from './round-gates';
import { rescueAt } from './round-service';
import { standInView } from './stand-in-service';
import type { OwnCommands } from './vocabulary-service';
import { returnView } from './module-return';
import { commandOf, ownCommands } from './vocabulary-service';

function brief(image: Readonly<ImageRow> | null): ImageBrief | null {
  if (!image) return null;
  const { sha256, partition, kit, sizeBytes } = image;
  return { sha256, partition, kit, sizeBytes, build: image.fingerprint ? (splitFingerprint(image.fingerprint)?.id ?? null) : null };
}

export const evidenceOf = (step: { readonly evidence: string }) => JSON.parse(step.evidence) as Evidence[];

/** The person's own command for a step; the serial is never put into what may be shown to others. */
function stepCommand(context: RoundContext, step: RoundStepRow, own: OwnCommands): string | null {
  const about = aboutStep(context, step);
  const image = imageOf(context, step);
  const stock = stockFor(context, step);
  const partition = step.stepKey === 'write-recovery' ? about.recoveryHome : (image?.partition ?? about.partition);
  return commandOf(own, STEP_KINDS[step.stepKey].verb, {
    partition,
    slot: step.stepKey === 'other-slot' ? about.otherSlot : about.slot,
    target: about.slot === '' ? partition : `${partition}_${about.slot}`,
    file: image ? imageFileName(image) : 'IMAGE',
    stock: stock ? imageFileName(stock) : 'STOCK.img',
    facts: 'facts.json',
    path: '/storage',
    serial: 'SERIAL',
    code: 'CODE',
    address: 'HOST:PORT',
  });
}

export const againOf = ({ again, againNote }: Readonly<RoundRow>): Again | null => again && { answer: again, note: againNote ?? '' };

async function stepViews(context: RoundContext): Promise<StepView[]> {
  const own = await ownCommands();
  const before = context.round.basedOn === null ? null : new Set((await stepsOf([context.round.basedOn])).map((step) => step.key));
  return context.steps.map((row): StepView => {
    const about = aboutStep(context, row);
    const kind = STEP_KINDS[row.stepKey];
    const { id, state, startedAt, endedAt, actor } = row;
    return {
      ...row.planned,
      id,
      key: row.stepKey,
      stage: kind.stage,
      state,
      text: kind.text(about),
      prompts: kind.prompts?.(about) ?? [],
      keyCard: kind.keyCard?.(about) ?? null,
      command: stepCommand(context, row, own),
      seconds: kind.seconds,
      button: (typeof kind.button === 'function' ? kind.button(about) : kind.button) ?? null,
      sureness: kind.sureness ?? 'seen done',
      isNew: before !== null && !before.has(row.stepKey),
      startedAt,
      endedAt,
      actor,
      evidence: evidenceOf(row),
    };
  });
}

async function freeBytes(): Promise<number | null> {
  const disk = await statfs(dataDir()).catch(() => null);
  return disk && disk.bavail * disk.bsize;
}

/** What a round of this kind still puts into the vault at most; bytes. */
function stillToMake({ steps, facts, rootPartition }: RoundContext): number {
  const one = (rootPartition === null ? null : facts.partitions[rootPartition]?.size) ?? 64 * 1024 * 1024;
  return steps
    .filter((step) => step.state !== 'done')
    .reduce(
      (sum, step) =>
        sum +
        (step.stepKey === 'take-whole'
          ? 16 * one
          : ['take-stock', 'take-target-stock', 'patch', 'patch-target', 'patch-other-slot'].includes(step.stepKey)
            ? one
            : 0),
      0,
    );
}

async function beforeTouching(context: RoundContext) {
  const { handset, steps } = context;
  const rooted = context.subject.root === 'proven' || context.subject.root === 'unproven';
  const rounds = steps.map((step) => ({ key: step.stepKey, about: step.planned, row: step }));
  const battery = handset.profile === null ? null : ((await standInView(handset.profile))?.state.batteryPercent ?? null);
  const titles = new Map(rounds.map((step) => [step.about, STEP_KINDS[step.key].text(aboutStep(context, step.row)).title]));
  return {
    wipeLedger: wipeLedger(rounds, (step) => titles.get(step.about) ?? step.key, rooted),
    budgets: [batteryBudget(rounds, battery), roomBudget(stillToMake(context), await freeBytes())],
  };
}

export async function roundView(id: string): Promise<RoundView> {
  const context = await roundContext(id);
  const { round, handset, facts, plan } = context;
  const steps = await stepViews(context);
  const index = steps.findIndex((step) => step.state !== 'done');
  const current = round.state === 'open' && index >= 0 ? index : null;
  const step = current === null ? null : context.steps[current]!;
  const gated = step && gatedStep(context, step);
  const held = Math.max(
    0,
    ...context.steps
      .filter((one) => one.planned.holds && one.startedAt !== null)
      .map((one) => one.startedAt!)
      .slice(0, 1),
  );
  const refusals = (await listEvents({ kind: 'offer-refused', roundId: id })).filter((event) => event.at >= held).length;
  const putBacks = await openPutBacks(handset.id);
  const about = gated ?? step ?? context.steps.at(-1) ?? null;
  return {
    id,
    version: round.version,
    title: round.title,
    lane: plan.compared?.find((lane) => lane.chosen)?.title ?? 'One image, written once',
    state: round.state,
    handset: {
      id: handset.id,
      name: handset.name,
      link: handset.link,
      profile: handset.profile,
      build: facts.buildId,
      slot: facts.currentSlot ?? '',
    },
    partition: context.rootPartition ?? 'the partition that carries root',
    steps,
    current,
    image: about && brief(imageOf(context, about)),
    stock: about && brief(stockFor(context, about)),
    checks: gated ? await gatesOf(context, gated) : [],
    overrides: JSON.parse(round.overrides) as Override[],
    interlock: interlockOf(steps, current, refusals),
    compared: plan.compared ?? [],
    ...(await beforeTouching(context)),
    rescueAt: await rescueAt(id),
    comingBack: step?.stepKey === 'modules-on' ? await returnView(context) : null,
    putBacks: putBacks.map(({ id: rowId, what, openedAt }) => ({ id: rowId, what, openedAt })),
    signOff: signOff(
      steps,
      putBacks.map(({ what }) => what),
    ),
    wayBack: wayBackOf(wayBackInput(context.subject, context.bench, rootOf(context.subject, context.bench))),
    runningJob: (await listJobs()).find((job) => job.roundId === id && job.state === 'running')?.id ?? null,
    openedAt: round.openedAt,
    closedAt: round.closedAt,
    again: againOf(round),
  };
}
