import { blocking } from '../gates/check';
import type { Met } from '../observe/expectation';
import { goesToStock } from '../planning/goals';
import { DEEDS, DONE_HERE } from '../steps/deeds';
import type { OutcomeId } from '../words/outcomes';
import { OUTCOMES, outcomesOf } from '../steps/outcomes';
import type { Refusal } from '../words/refusals';
import * as say from '../words/step-evidence';
import type { Answered, Moment, ShownAt } from './command';
import type { Decision } from './decision';
import { NOTHING_DECIDED } from './decision';
import type { Evidence } from './evidence';
import type { RoundStep, RootTelling, Seen } from './round';
import { NOTHING_SEEN } from './round';
import { changed, endStep, inDoubt, planAnewIfOther, seenAs, strong, weak } from './step-ends';

/*
 * What a person says of a step that they did themselves, and what they show of it (docs/method.md,
 * "Expectation and observation"). Only what went as described ends a step as done.
 */

/** Faults after which nobody knows what lies on the partition. */
const UNFINISHED: readonly string[] = ['link-lost', 'cut-short'];

/**
 * What was shown as evidence: what the handset itself says is strong, a tool's word is weak. Root is strong
 * where the same shell was refused it before, and bytes that were read out always: proofs of different kinds,
 * whoever typed.
 */
export function evidenceOf({ met, witness, refusedBefore = false }: ShownAt): Evidence[] {
  const own = met.some(({ what }) => what === 'serial');
  const rest = met.filter(({ what }) => what !== 'serial');
  const alone = rest.filter(({ what }) => what === 'root' || what === 'hash');
  const onScreen = rest.filter((one) => !alone.includes(one));
  const as = (found: readonly Met[], sure: boolean): Evidence[] =>
    found.length === 0 ? [] : [(sure ? strong : weak)(say.shownMet(found))];
  return [
    ...as(onScreen, own && witness !== 'tool'),
    ...alone.map((one): Evidence =>
      one.what === 'hash'
        ? { ...strong(say.shownMet([one])), kind: 'read-back' }
        : refusedBefore
          ? strong(say.shownMet([one]))
          : weak(`${say.shownMet([one])}, ${say.NOT_REFUSED_BEFORE}`),
    ),
    ...(own ? [{ ...strong(say.OWN_SERIAL), kind: 'identity' as const }] : []),
  ];
}

/** What of it tells against the step. */
const against = ({ differs, fault }: ShownAt): Evidence[] => [
  ...differs.map((one): Evidence => ({
    // a serial is private: that it is another one is enough
    ...strong(one.what === 'serial' ? say.OTHER_SERIAL : say.shownDiffers(one)),
    says: 'no',
  })),
  ...(fault ? [{ ...weak(say.shownFault(fault.id)), says: 'no' as const }] : []),
];

/** What a start that went as planned says of root; null where it says nothing. */
export function rootAfterStart(
  kind: Moment['round']['kind'],
  { planned }: Pick<RoundStep, 'planned'>,
  root: Moment['root'],
): RootTelling | null {
  if (planned.rootAfter === false) {
    const stock = goesToStock(kind) || root === 'stock';
    return { state: stock ? 'stock' : 'lost', why: 'started without root, as planned' };
  }
  return planned.rootAfter === true && root === 'broken'
    ? { state: 'unproven', why: 'it starts again' }
    : null;
}

/** What it did stays: it wrote or erased something. */
export const isLasting = ({ key, planned }: Pick<RoundStep, 'key' | 'planned'>): boolean =>
  DEEDS[key].writes !== null || DEEDS[key].touches === true || planned.writes || planned.erases;

export function answered(
  moment: Moment,
  step: RoundStep,
  command: Answered,
  now: number,
): Decision | Refusal {
  if (DONE_HERE.includes(step.key)) return { because: 'done-here' };
  switch (command.answer.how) {
    case 'as-described':
      return asDescribed(moment, step, command, now);
    case 'otherwise':
      return otherwise(moment, step, command, command.answer);
    case 'cannot-tell':
      return cannotTell(moment, step, command, now);
  }
}

/** Why it can't be done yet; null where nothing stands in the way. */
function heldUp(
  { round, steps, proves }: Moment,
  step: RoundStep,
  { shown, checks, buildKnown }: Answered,
): Refusal | null {
  const open = blocking(checks, round.overrides);
  if (open.length > 0) return { because: 'checks-open', checks: open.map(({ id }) => id) };
  if (shown?.verdict === 'otherwise')
    return {
      because: 'shows-otherwise',
      fault: shown.fault?.id ?? null,
      differs: shown.differs.map(({ what }) => what),
    };
  if (DEEDS[step.key].onlyShown === true && shown?.verdict !== 'met') return { because: 'hash-missing' };
  // what has to be in the vault is there, or nobody's word makes it so
  if (DEEDS[step.key].settledBy !== undefined && proves(step, steps, round.target) === null)
    return { because: 'not-in-vault' };
  return step.key === 'read-facts' && shown?.verdict !== 'met' && !buildKnown
    ? { because: 'build-unknown' }
    : null;
}

/** What speaks for it: what was shown and what was said, or the bare answer. */
function evidenceFor({ key }: RoundStep, { answer, shown }: Answered): Evidence[] {
  const found = shown ? evidenceOf(shown) : [];
  const note = answer.note.trim();
  const evidence = [
    ...found,
    ...(note === '' ? [] : [weak(say.said(note))]),
    ...(shown && found.length === 0 ? [weak(say.NOT_UNDERSTOOD)] : []),
  ];
  const aloneTell = evidence.some(({ kind }) => kind === undefined);
  // what was read out says nothing of the rest of the step: that is said
  return aloneTell ? evidence : [...evidence, weak(key === 'read-facts' ? say.STILL_SO : say.AS_DESCRIBED)];
}

function asDescribed(moment: Moment, step: RoundStep, command: Answered, now: number): Decision | Refusal {
  const held = heldUp(moment, step, command);
  if (held) return held;
  const { shown, slots, fresh } = command;
  const isRead = shown?.verdict === 'met' && shown.met.some(({ what }) => what === 'hash');
  const seen: Seen = {
    ...NOTHING_SEEN,
    slots: isRead ? slots.map(asRead) : slots,
    root: DEEDS[step.key].starts ? rootAfterStart(moment.round.kind, step, moment.root) : null,
  };
  // what the cable sent before belongs to it
  const sent = step.state === 'waiting' ? step.evidence.filter(({ strength }) => strength === 'strong') : [];
  const evidence = [...sent, ...evidenceFor(step, command)];
  const ended = endStep(moment, step.id, 'hand', evidence, seen, now);
  return planAnewIfOther(ended, moment, step.id, fresh, now);
}

const asRead = (one: Answered['slots'][number]) => ({
  ...one,
  certainty: 'read' as const,
  reason: say.READ_BACK_BY_HAND,
});

const LOOPS: readonly OutcomeId[] = ['loops', 'stays-at-logo'];

/** What was started from memory leaves the disk as it was. */
const fromMemory = ({ key }: Pick<RoundStep, 'key'>) => DEEDS[key].shown?.as === 'start-once';

/** What is known of a handset that starts over and over at a step, by whoever saw it. */
export function seenLooping(
  step: Pick<RoundStep, 'key' | 'planned'>,
  why: string,
): Pick<Seen, 'root' | 'trials'> {
  const { starts, root } = DEEDS[step.key];
  // a start of plain stock says nothing of the image that carries root
  const triedRoot = root === 'from memory' || (starts === true && step.planned.rootAfter !== false);
  return {
    root: fromMemory(step) ? null : { state: 'broken', why },
    trials: triedRoot ? [{ outcome: 'looped', note: why }] : [],
  };
}

/** What is known of the handset after an outcome: its root, what is in doubt, and what was started. */
function seenOtherwise(step: RoundStep, { shown, doubt }: Answered, outcome: OutcomeId, words: string): Seen {
  const { doubt: doubts, root } = OUTCOMES[outcome];
  const onDisk = root === 'broken' && fromMemory(step) ? null : root;
  const unfinished = doubts || UNFINISHED.includes(shown?.fault?.id ?? '');
  return {
    ...NOTHING_SEEN,
    slots: unfinished ? inDoubt(doubt, say.SAID_TO_GO_WRONG) : [],
    root: onDisk && { state: onDisk, why: words },
    trials: LOOPS.includes(outcome) ? seenLooping(step, words).trials : [],
  };
}

/** The step is not done; what is known of the handset changes, and what it may have written is in doubt. */
function otherwise(
  moment: Moment,
  step: RoundStep,
  command: Answered,
  { outcome, note }: { readonly outcome: OutcomeId; readonly note: string },
): Decision | Refusal {
  if (!outcomesOf(DEEDS[step.key]).includes(outcome)) return { because: 'another-step' };
  const { shown } = command;
  const words = say.wentOtherwise(outcome, note.trim());
  const evidence: Evidence[] = [
    { ...weak(words), says: 'no' },
    ...(shown ? [...evidenceOf(shown), ...against(shown)] : []),
  ];
  const code = outcome === 'cut-short' ? 'link-lost' : 'handset-refused';
  return {
    ...NOTHING_DECIDED,
    ...seenAs(moment, seenOtherwise(step, command, outcome, words), [
      { kind: 'step-failed', data: { key: step.key, error: { code, message: words, outcome }, evidence } },
    ]),
    steps: changed(moment.steps, step.id, { state: 'failed', actor: 'hand', evidence }),
  };
}

/** What changes nothing for good can be passed over; what writes is in doubt until it is read or written again. */
function cannotTell(
  moment: Moment,
  step: RoundStep,
  { answer, shown, doubt, buildKnown }: Answered,
  now: number,
): Decision | Refusal {
  const note = answer.note.trim();
  const evidence: Evidence[] = [
    { ...weak(note === '' ? say.COULD_NOT_TELL : `${say.COULD_NOT_TELL}, “${note}”`), says: 'unknown' },
    ...(shown ? [...evidenceOf(shown), ...against(shown)] : []),
  ];
  if (step.key === 'read-facts' && !buildKnown) return { because: 'build-unknown' };
  if (!isLasting(step)) return endStep(moment, step.id, 'hand', evidence, NOTHING_SEEN, now);
  return {
    ...NOTHING_DECIDED,
    ...seenAs(moment, { ...NOTHING_SEEN, slots: inDoubt(doubt, say.NOBODY_COULD_TELL) }),
    steps: changed(moment.steps, step.id, { state: 'failed', actor: 'hand', evidence }),
  };
}
