import { array, object, string } from 'yup';
import { LIMITS } from '@/core/limits';
import type { RescueMark } from './rescue-view';
import { CLASS_IDS } from '@/core/ways/classes';
import type { CauseId, CheckId, RepairId, RungId, SymptomId } from '@/core/words/rescue';
import { CAUSE_WORDS, CHECK_WORDS, REPAIR_WORDS, RUNG_WORDS, SYMPTOM_WORDS } from '@/core/words/rescue';

/* Shapes of what a browser sends about a handset in trouble. */

export const rescueQuerySchema = object({
  handset: string().uuid(),
  /** A class, for one that was never here. */
  like: string().oneOf(CLASS_IDS),
});

const SYMPTOMS = Object.keys(SYMPTOM_WORDS) as SymptomId[];
const REPAIRS = Object.keys(REPAIR_WORDS) as RepairId[];
const CHECKS = Object.keys(CHECK_WORDS) as CheckId[];
const RUNGS = Object.keys(RUNG_WORDS) as RungId[];

const symptoms = array(string().oneOf(SYMPTOMS).required()).max(SYMPTOMS.length);
const named = string().trim().max(60).nullable().defined();
const about = {
  handsetId: string().uuid().nullable().defined(),
  like: string().oneOf(CLASS_IDS).nullable().defined(),
};

/** A case as it stands; the same is what is kept of it. */
export const caseStateSchema = object({
  symptoms: symptoms.defined(),
  answers: array(
    object({
      check: string().oneOf(CHECKS).required(),
      answer: string()
        .nullable()
        .defined()
        .test('one-of-its-answers', function isAnswer(answer) {
          const { check } = this.parent as { readonly check: CheckId };
          return answer === null || Object.hasOwn(CHECK_WORDS[check]?.answers ?? {}, answer);
        }),
      by: string()
        .oneOf(['you', 'paste', 'link'] as const)
        .required(),
      saw: string().max(300).nullable().defined(),
    }).required(),
  )
    .max(CHECKS.length)
    .defined(),
  tried: array(string().oneOf(REPAIRS).required()).max(REPAIRS.length).defined(),
  rungs: array(string().oneOf(RUNGS).required()).max(RUNGS.length).defined(),
  cable: named,
  host: named,
});

export const saveCaseSchema = object({ ...about, state: caseStateSchema.required() });

export const readAnswersSchema = object({
  handsetId: string().uuid().required(),
  /** What was pasted; null to ask the handset itself. */
  text: string().max(LIMITS.factsTextBytes).nullable().defined(),
  symptoms: symptoms.min(1).required(),
});

export const beginRepairSchema = object({
  handsetId: string().uuid().required(),
  repair: string().oneOf(REPAIRS).required(),
  state: caseStateSchema.required(),
});

export const closeCaseSchema = object({
  ...about,
  state: caseStateSchema.required(),
  /** What brought it back; null where nothing did. */
  repair: string().oneOf(REPAIRS).nullable().defined(),
  /** Or the rung of the line's own ladder. */
  rung: string().oneOf(RUNGS).nullable().defined(),
  /** The likeliest cause that it mends; null where nothing brought it back. */
  cause: string()
    .oneOf(Object.keys(CAUSE_WORDS) as CauseId[])
    .nullable()
    .defined(),
});

type MarkKind = RescueMark['kind'];
/** Asked for in a mark of this kind. */
const wordOf = (kind: MarkKind) =>
  string()
    .trim()
    .max(120)
    .when('kind', { is: kind, then: (word) => word.required() });
export const markSchema = object({
  handsetId: string().uuid().required(),
  mark: object({
    kind: string()
      .oneOf(['module', 'kit', 'way-down'] as const)
      .required(),
    module: wordOf('module'),
    item: wordOf('kit'),
    from: wordOf('way-down'),
    to: wordOf('way-down'),
  }).required(),
});
