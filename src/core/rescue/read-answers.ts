import { interpretFacts, parsePrinted } from '../formats/facts/parse-facts';
import { observe } from '../observe/hold';
import type { CheckId, SymptomId } from '../words/rescue';
import { CHECKS } from './causes';

/* What a handset or a tool printed, as answers to the questions of a case (docs/method.md, "Rescue"). Pure. */

/** One answer, and the line that says it. */
export interface ReadAnswer {
  readonly check: CheckId;
  readonly answer: string;
  readonly saw: string;
}

/** What the text is held against; null where it was never read. */
export interface KnownBefore {
  /** The build that root was made for. */
  readonly build: string | null;
  /** The slot that was active when it last started. */
  readonly slot: string | null;
}

type Values = Readonly<Record<string, string>>;

function ofSlots(values: Values, now: string | null, before: string | null): ReadAnswer[] {
  if (now === null) return [];
  const tries = values[`slot-retry-count:${now}`];
  const unbootable = values[`slot-unbootable:${now}`];
  if (tries === undefined && unbootable === undefined) return [];
  const successful = values[`slot-successful:${now}`] === 'yes';
  const spent = unbootable === 'yes' || (tries?.trim() === '0' && !successful);
  const other = before !== null && now !== before;
  return [
    {
      check: 'slot-lines',
      answer: spent ? 'spent' : other ? 'other' : 'plain',
      saw: `slot ${now} active${tries === undefined ? '' : `, ${tries.trim()} tries left`}${unbootable === 'yes' ? ', not bootable' : ''}`,
    },
  ];
}

function ofUpdate(values: Values): ReadAnswer[] {
  const status = values['snapshot-update-status']?.trim();
  return status === undefined || status === ''
    ? []
    : [
        {
          check: 'update-line',
          answer: status === 'none' ? 'none' : 'open',
          saw: `snapshot-update-status: ${status}`,
        },
      ];
}

function ofRoot(text: string): ReadAnswer[] {
  const { met, differs, fault } = observe({ step: 'prove-root' }, text);
  if (met.some(({ what }) => what === 'root'))
    return [{ check: 'root-command', answer: 'granted', saw: 'uid 0' }];
  if (fault?.id === 'root-denied') return [{ check: 'root-command', answer: 'denied', saw: 'denied' }];
  if (fault?.id === 'no-root') return [{ check: 'root-command', answer: 'none', saw: 'no such command' }];
  const user = differs.find(({ what }) => what === 'root');
  return user ? [{ check: 'root-command', answer: 'none', saw: user.seen }] : [];
}

/** One that answers from its running system has started; from anywhere else it is listed there. */
function ofListing(mode: string): ReadAnswer[] {
  const saw = `listed in its ${mode}`;
  if (mode === 'system') return [{ check: 'wait-first', answer: 'starts', saw }];
  const listed: ReadAnswer = { check: 'other-mode', answer: 'yes', saw };
  return mode === 'bootloader' ? [listed, { check: 'opens-bootloader', answer: 'yes', saw }] : [listed];
}

/** Those of the questions that are asked about what shows: of the others nothing is to be learnt. */
export const aboutWhatShows = (
  answers: readonly ReadAnswer[],
  symptoms: readonly SymptomId[],
): ReadAnswer[] =>
  answers.filter(({ check }) => CHECKS[check].about?.some((symptom) => symptoms.includes(symptom)) ?? true);

/**
 * All answers that a text gives; none where it says nothing about any question.
 * @throws {EternoError} `too-large`
 */
export function answersIn(text: string, before: KnownBefore): ReadAnswer[] {
  const { values, kind } = parsePrinted(text);
  const { unlocked, currentSlot, fingerprint } = interpretFacts(values);
  const mode = observe({ step: 'list' }, text).met.find(({ what }) => what === 'mode')?.seen ?? null;
  const bootloader = kind === 'bootloader' || mode === 'bootloader';
  return [
    ...(unlocked === null
      ? []
      : [
          {
            check: 'unlocked-line' as const,
            answer: unlocked ? 'yes' : 'no',
            saw: `unlocked: ${unlocked ? 'yes' : 'no'}`,
          },
        ]),
    ...ofSlots(values, currentSlot, before.slot),
    ...ofUpdate(values),
    ...(fingerprint === null || before.build === null
      ? []
      : [
          {
            check: 'same-build' as const,
            answer: fingerprint === before.build ? 'same' : 'other',
            saw: fingerprint,
          },
        ]),
    ...ofRoot(text),
    ...(bootloader ? ofListing('bootloader') : mode === null ? [] : ofListing(mode)),
  ];
}
