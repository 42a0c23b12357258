import 'server-only';
import { dependenciesOf } from '../repositories/record-repository';
import type { KeptImage } from '@/core/bench/bench';
import type { Check } from '@/core/gates/check';
import { GATE_TITLES, sawWords } from '@/core/words/gates';
import type {
  Again,
  AskedFact,
  CheckView,
  ImageBrief,
  RoundView,
  RoundStepView,
} from '@/contracts/round-view';
import type { FactKey } from '@/core/facts/catalogue';
import { FACT_CHOICES, FACT_KINDS } from '@/core/facts/catalogue';
import type { Unknown } from '@/core/planning/context';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { batteryBudget, roomBudget, wipeLedger } from '@/core/rounds/budget';
import { interlockOf } from '@/core/rounds/interlock';
import { signOff } from '@/core/rounds/sign-off';
import { workedOn, workedSeconds } from '@/core/rounds/worked';
import { STEP_KINDS } from '@/core/steps/step-table';
import { wayBackOf } from '@/core/vault/way-back';
import { listEvents } from '../repositories/event-repository';
import { stepsOf } from '../repositories/round-repository';
import { rootOf, wayBackInput } from '@/core/bench/judgements';
import { freeBytes } from '../services/incoming';
import { listJobs } from '../services/jobs';
import { openPutBacks } from '../services/put-back-service';
import { rebuiltRecoveryOf } from '@/core/bench/recovery-image';
import type { Round, RoundStep } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import { watched } from '@/core/ways/sheet';
import type { WayId } from '@/core/ways/way-kinds';
import { wayView } from '../services/way-service';
import type { StepAbout } from '@/core/steps/step-kind';
import { NOT_KNOWN_NOW } from '@/core/words/plan';
import { expectedWords } from '@/core/words/expectations';
import { partitionName } from '@/core/words/step-evidence';
import { mayHaveWritten } from './step-writes';
import { executorOf, isByCable, isByHand } from './executors/executors';
import type { RoundContext } from './round-context';
import {
  aboutStep,
  buildOfStep,
  imageOf,
  ownRecovery,
  roundContext,
  stockFor,
  stockOf,
} from './round-context';
import { gatedStep, gatesOf } from './round-gates';
import { rescueState } from './rescue';
import { proveAgainView } from './prove-again';
import { readElsewhere } from './read-elsewhere';
import { cableSettings } from '../services/cable-service';
import { isLinked, listedNow } from '../services/link-service';
import { returnView } from './module-return';
import { ownCommands } from '../services/vocabulary-service';
import { handView, stepCommand } from './hand-view';
import { packageNeeded } from './held-package';

function brief(image: KeptImage | null): ImageBrief | null {
  if (!image) return null;
  const { sha256, partition, kit, sizeBytes } = image;
  return {
    sha256,
    partition,
    kit,
    sizeBytes,
    build: image.fingerprint ? (splitFingerprint(image.fingerprint)?.id ?? null) : null,
  };
}

export const againOf = ({ again, againNote }: Round): Again | null =>
  again && { answer: again, note: againNote ?? '' };

/** What would prove a step that writes, in words. */
function expectedOf(context: RoundContext, step: RoundStep, { build, target }: StepAbout): string[] {
  const { expects, writes } = DEEDS[step.key];
  const partitions = mayHaveWritten(context, step).map(partitionName);
  return (expects ?? []).map((one) =>
    expectedWords({
      see: one.see,
      where:
        writes?.what === 'whole build' || partitions.length === 0
          ? 'Every image of the build'
          : partitions.join(', '),
      build: one.see === 'partition' ? build : target,
    }),
  );
}

async function stepViews(context: RoundContext): Promise<RoundStepView[]> {
  const own = await ownCommands();
  const before =
    context.round.basedOn === null
      ? null
      : new Set((await stepsOf([context.round.basedOn])).map((step) => step.key));
  return context.steps.map((row): RoundStepView => {
    const seen = watched(context.subject.ways);
    const about = { ...aboutStep(context, row), ways: seen.ways };
    const kind = STEP_KINDS[row.key];
    const text = kind.text(about);
    const prompts = kind.prompts?.(about) ?? [];
    // to warn of other keys it looks at all of them: they are not what the step is about
    const keyCard = kind.keyCard?.({ ...about, ways: context.subject.ways }) ?? null;
    const used = new Set<WayId>([...seen.asked(), ...(keyCard ? [keyCard.way] : [])]);
    const byLink = executorOf(context.steps, row) !== null;
    const { id, state, startedAt, endedAt, actor } = row;
    return {
      ...row.planned,
      // after trouble nothing that was only planned is told
      ifItEndsHere: isBroken(state) ? NOT_KNOWN_NOW : row.planned.ifItEndsHere,
      id,
      key: row.key,
      title: text.title,
      stage: kind.stage,
      state,
      text,
      prompts,
      keyCard,
      ways: [...used].map((way) => wayView(way, context.subject.ways(way))),
      command: stepCommand(context, row, own),
      seconds: kind.seconds,
      // what a button says that does it says nothing of what the person did
      button:
        byLink || isByHand(row)
          ? ((typeof kind.button === 'function' ? kind.button(about) : kind.button) ?? null)
          : null,
      expected: expectedOf(context, row, about),
      byLink,
      sureness: kind.sureness ?? 'seen done',
      isNew: before !== null && !before.has(row.key),
      startedAt,
      endedAt,
      workedSeconds: workedSeconds(row),
      actor,
      evidence: row.evidence,
    };
  });
}

const isBroken = (state: RoundStep['state']) => state === 'failed' || state === 'interrupted';

const checkView = ({ id, verdict, overridable, saw }: Check): CheckView => ({
  id,
  verdict,
  overridable,
  title: GATE_TITLES[id],
  evidence: sawWords(saw),
});

/** A whole build is at most so many times the partition that carries root. */
const PARTS_OF_BUILD = 16;

/** What a round of this kind still puts into the vault at most; bytes. */
function stillToMake({ steps, facts, rootPartition }: RoundContext): number {
  const one = (rootPartition === null ? null : facts.partitions[rootPartition]?.size) ?? 64 * 1024 * 1024;
  const parts = { 'one image': 1, 'every image': PARTS_OF_BUILD };
  return steps
    .filter(({ state }) => state !== 'done')
    .reduce((sum, { key }) => sum + one * (parts[DEEDS[key].keeps!] ?? 0), 0);
}

/** What the handset says may be so old on a page; it is asked again when something is done. */
const PAGE_MS = 3000;

async function beforeTouching(context: RoundContext) {
  const { handset, steps } = context;
  const rooted = context.subject.root === 'proven' || context.subject.root === 'unproven';
  const running = steps.some(({ state }) => state === 'running');
  const battery = running ? null : ((await listedNow(handset, PAGE_MS))?.batteryPercent ?? null);
  return {
    wipeLedger: wipeLedger(
      steps,
      (step) => STEP_KINDS[step.key].text(aboutStep(context, step)).title,
      rooted,
    ),
    budgets: [batteryBudget(steps, battery), roomBudget(stillToMake(context), await freeBytes())],
  };
}

/** The image that a step works from: the stock one of its build, or the one that holds the recovery. */
function baseOfStep(context: RoundContext, step: RoundStep) {
  const { settledBy } = DEEDS[step.key];
  if (!settledBy) return null;
  const { bench, rootPartition, recoveryHome } = context;
  const build = buildOfStep(context, step, settledBy.of);
  if (settledBy.what === 'patched with recovery')
    return rebuiltRecoveryOf(bench, rootPartition, build, ownRecovery(context));
  if (settledBy.what === 'bootloader') return stockOf(context, 'bootloader', build);
  return stockOf(context, settledBy.what === 'rebuilt recovery' ? recoveryHome : rootPartition, build);
}

/** What a person says of the handset in a word, of what the plan depends on and nobody has read. */
const SAID: Readonly<Partial<Record<Unknown, FactKey>>> = { switch: 'unlockAllowed', snapshot: 'snapshot' };

/** What of the root app only its own page shows, where no link reads it. */
const OF_ROOT_APP: readonly FactKey[] = ['rootAppChannel', 'rootAppHidden', 'rootAppPinned'];

function asksOf({ round, known, handset }: RoundContext, step: RoundStep | null): AskedFact[] {
  const keys =
    step?.key === 'find-out'
      ? (round.plan.unknown ?? []).flatMap((what) => SAID[what] ?? [])
      : step?.key === 'finish-root-app' && handset.link === 'hand'
        ? OF_ROOT_APP
        : [];
  return keys.flatMap((key): AskedFact[] => {
    const choices = FACT_CHOICES[key];
    return choices
      ? [
          {
            key,
            label: FACT_KINDS[key].label,
            choices,
            said: known.value(key),
            needed: step?.key === 'find-out',
          },
        ]
      : [];
  });
}

const appsNoted = async ({ handset }: RoundContext, step: RoundStep | null) =>
  step?.key === 'look-around'
    ? (await dependenciesOf(handset.id)).map(({ name, effect }) => ({ name, effect }))
    : [];

async function cableView({ handset }: RoundContext, step: RoundStep | null): Promise<RoundView['cable']> {
  if (isLinked(handset)) return null;
  const starts = step !== null && DEEDS[step.key].starts === true;
  const does = step === null ? null : isByCable(step) ? 'the step' : starts ? 'the restart' : null;
  return { ...(await cableSettings(handset.id)), does };
}

/** The step to do now, its checks, and the images that it is about. */
async function standing(context: RoundContext, current: number | null) {
  const step = current === null ? null : context.steps[current]!;
  const gated = step && gatedStep(context, step);
  const about = gated ?? step ?? context.steps.at(-1) ?? null;
  return {
    image: about && brief(imageOf(context, about)),
    stock: about && brief(stockFor(context, about)),
    baseOfStep: step && brief(baseOfStep(context, step)),
    checks: gated ? (await gatesOf(context, gated, PAGE_MS)).map(checkView) : [],
    passes: step && (await packageNeeded(context, step)),
    asks: asksOf(context, step),
    hand: step && (await handView(context, step)),
    cable: await cableView(context, step),
    comingBack: step?.key === 'modules-on' ? await returnView(context) : null,
    apps: await appsNoted(context, step),
    proveAgain: await proveAgainView(context),
  };
}

/** Offers to restart that were refused since nothing may restart. */
async function refusedOffers({ round, steps }: RoundContext): Promise<number> {
  const from = steps.find(({ planned, startedAt }) => planned.holds && startedAt !== null)?.startedAt ?? 0;
  return (await listEvents({ kind: 'offer-refused', roundId: round.id })).filter(({ at }) => at >= from)
    .length;
}

export async function roundView(id: string): Promise<RoundView> {
  const context = await roundContext(id);
  const { round, handset, facts, subject, bench } = context;
  const { compared = [] } = round.plan;
  const steps = await stepViews(context);
  const index = steps.findIndex((step) => step.state !== 'done');
  const current = round.state === 'open' && index >= 0 ? index : null;
  const putBacks = (await openPutBacks(handset.id)).map(({ id: rowId, what, openedAt }) => ({
    id: rowId,
    what,
    openedAt,
  }));
  return {
    id,
    version: round.version,
    title: round.title,
    lane: compared.find((lane) => lane.chosen)?.title ?? 'One image, written once',
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
    ...(await standing(context, current)),
    overrides: round.overrides,
    interlock: interlockOf(steps, current, await refusedOffers(context)),
    compared,
    ...(await beforeTouching(context)),
    rescue: await rescueState(context),
    putBacks,
    signOff: signOff(
      round,
      context.steps,
      putBacks.map(({ what }) => what),
      readElsewhere(context),
    ),
    wayBack: wayBackOf(wayBackInput(subject, bench, rootOf(subject, bench))),
    runningJob: (await listJobs()).find((job) => job.roundId === id && job.state === 'running')?.id ?? null,
    openedAt: round.openedAt,
    closedAt: round.closedAt,
    reached: round.reached,
    workedSeconds: workedOn(context.steps),
    again: againOf(round),
  };
}
