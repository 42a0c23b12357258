import type { RootPartition } from '../fit/root-partition';
import type { Floor } from './floors';
import type { DataVerdict } from './patch-levels';

/* Every go or no-go question before anything is wiped (docs/method.md, "Feasibility"). */

export type Answer = 'yes' | 'no' | 'unknown';

/** What is known of an app or feature that may stop once the handset is unlocked or rooted. */
export interface Dependency {
  readonly name: string;
  readonly effect: 'stops' | 'keeps working' | 'unknown';
  /** Whether the person can do without. */
  readonly needed: boolean;
}

/** A wait that has a clock, such as an unlock switch that stays grey for some days. UTC milliseconds. */
export interface WaitClock {
  readonly kind: 'unlock switch' | 'mailed code' | 'return window' | 'tester enrolment';
  readonly endsAt: number;
  readonly note: string;
}

export interface FeasibilityInput {
  readonly now: number;
  readonly unlocked: boolean | null;
  readonly unlockSwitch: 'on' | 'off' | 'greyed' | 'absent' | null;
  readonly clocks: readonly WaitClock[];
  readonly buildKnown: boolean;
  /** An exact full package of the installed build has been opened here. */
  readonly packageAtHand: boolean;
  /** Its stock image of the partition that carries root is in the vault. */
  readonly stockKept: boolean;
  readonly root: RootPartition;
  /** Kits that support this release and partition; null where the release is not known. */
  readonly kits: readonly { readonly name: string; readonly channel: string }[] | null;
  readonly recoveryWanted: boolean;
  readonly recoveries: readonly { readonly name: string }[];
  readonly floors: readonly Floor[];
  readonly data: DataVerdict;
  readonly dependencies: readonly Dependency[];
  /** Age of the newest backup off the handset, in days; null where there is none. */
  readonly backupDays: number | null;
  readonly backupMaxDays: number;
}

export type QuestionId =
  'build' | 'unlock' | 'package' | 'partition' | 'kit' | 'recovery' | 'floors' | 'apps' | 'data' | 'backup';

export interface Question {
  readonly id: QuestionId;
  readonly question: string;
  readonly answer: Answer;
  readonly sentence: string;
  /** How to find out, or what to do about a no; null on a yes. */
  readonly next: string | null;
  /** A "no" ends it; else it only costs. */
  readonly decides: boolean;
}

export interface Feasibility {
  readonly verdict: 'go' | 'no' | "can't tell";
  readonly sentence: string;
  readonly questions: readonly Question[];
  /** Unknowns, the one that would change the answer most first. */
  readonly unknowns: readonly Question[];
  /** Whether the way there erases the handset. */
  readonly wipes: boolean;
}

/**
 * How often a "no" comes out of each unknown, as a stated prior, and the hours it costs when it comes out too
 * late.
 */
const STAKES: Readonly<Record<QuestionId, { readonly chance: number; readonly hours: number }>> = {
  unlock: { chance: 0.35, hours: 12 },
  build: { chance: 0.3, hours: 10 },
  partition: { chance: 0.15, hours: 16 },
  package: { chance: 0.25, hours: 8 },
  kit: { chance: 0.2, hours: 8 },
  floors: { chance: 0.05, hours: 30 },
  data: { chance: 0.2, hours: 5 },
  apps: { chance: 0.4, hours: 2 },
  recovery: { chance: 0.3, hours: 2 },
  backup: { chance: 0.3, hours: 2 },
};

/** How much finding out would be worth, in hours. */
export const worthOf = (id: QuestionId) => STAKES[id].chance * STAKES[id].hours;

const DAY_MS = 86_400_000;
const days = (n: number) => `${n} day${n === 1 ? '' : 's'}`;

export function judgeFeasibility(input: FeasibilityInput): Feasibility {
  const questions = [
    buildQuestion(input),
    unlockQuestion(input),
    packageQuestion(input),
    partitionQuestion(input),
    kitQuestion(input),
    ...(input.recoveryWanted ? [recoveryQuestion(input)] : []),
    floorQuestion(input),
    dataQuestion(input),
    appsQuestion(input),
    backupQuestion(input),
  ];
  const unknowns = questions
    .filter(({ answer }) => answer === 'unknown')
    .sort((a, b) => worthOf(b.id) - worthOf(a.id));
  const ends = questions.filter(({ answer, decides }) => answer === 'no' && decides);
  const costs = questions.filter(({ answer, decides }) => answer === 'no' && !decides);
  const wipes = input.unlocked !== true;
  if (ends.length > 0)
    return { verdict: 'no', sentence: `Not now: ${ends[0]!.sentence}`, questions, unknowns, wipes };
  const deciding = unknowns.filter(({ decides }) => decides);
  if (deciding.length > 0)
    return {
      verdict: "can't tell",
      sentence: `Find out first: ${deciding[0]!.question.toLowerCase()} ${deciding[0]!.next ?? ''}`.trim(),
      questions,
      unknowns,
      wipes,
    };
  const cost =
    costs.length > 0 ? ` It costs something: ${costs.map(({ sentence }) => sentence).join(' ')}` : '';
  return {
    verdict: 'go',
    sentence: `Nothing known speaks against it.${wipes ? ' Unlocking erases the handset.' : ''}${cost}`,
    questions,
    unknowns,
    wipes,
  };
}

function ask(
  id: QuestionId,
  question: string,
  decides: boolean,
  answer: Answer,
  sentence: string,
  next: string | null = null,
): Question {
  return { id, question, decides, answer, sentence, next: answer === 'yes' ? null : next };
}

function buildQuestion({ buildKnown }: FeasibilityInput): Question {
  const text = 'Is its exact build known?';
  return buildKnown
    ? ask('build', text, true, 'yes', 'Its fingerprint is known, character for character.')
    : ask(
        'build',
        text,
        true,
        'unknown',
        'Its build is not known.',
        'Paste the property dump of the running system.',
      );
}

function unlockQuestion({ unlocked, unlockSwitch, clocks, now }: FeasibilityInput): Question {
  const text = 'Can it be unlocked?';
  if (unlocked === true) return ask('unlock', text, true, 'yes', 'It is unlocked already.');
  const clock = clocks.find(({ kind, endsAt }) => kind === 'unlock switch' && endsAt > now);
  if (clock)
    return ask(
      'unlock',
      text,
      true,
      'no',
      `The unlock switch opens in ${days(Math.ceil((clock.endsAt - now) / DAY_MS))}.`,
      'Leave it on Wi-Fi and wait for the clock.',
    );
  switch (unlockSwitch) {
    case 'on':
      return ask('unlock', text, true, 'yes', 'The unlock switch is on. Unlocking erases everything on it.');
    case 'off':
      return ask(
        'unlock',
        text,
        true,
        'unknown',
        'The unlock switch is off.',
        'Try to turn it on in the developer options: it may be free, grey, or absent.',
      );
    case 'greyed':
      return ask(
        'unlock',
        text,
        true,
        'no',
        'The unlock switch is grey.',
        'Insert a SIM, stay on Wi-Fi, and note its clock; some handsets wait for days.',
      );
    case 'absent':
      return ask(
        'unlock',
        text,
        true,
        'no',
        'There is no unlock switch: this carrier or country does not let it be unlocked.',
        'Only a way that needs no unlocking is left.',
      );
    case null:
      return ask(
        'unlock',
        text,
        true,
        'unknown',
        'It is not known whether it can be unlocked.',
        'Look at the unlock switch in the developer options.',
      );
  }
}

function packageQuestion({ packageAtHand, stockKept }: FeasibilityInput): Question {
  const text = 'Is the exact full package at hand?';
  if (packageAtHand)
    return ask('package', text, true, 'yes', 'An exact full package of the installed build was opened here.');
  if (stockKept)
    return ask('package', text, true, 'yes', 'No full package, but the stock image itself is in the vault.');
  return ask(
    'package',
    text,
    true,
    'unknown',
    'No package of the installed build was opened here.',
    'Download it and open it in the Firmware room before you unlock: some builds cannot be downloaded any more.',
  );
}

function partitionQuestion({ root }: FeasibilityInput): Question {
  const text = 'Is it known where root sits?';
  if (!root.agree)
    return ask(
      'partition',
      text,
      true,
      'no',
      `Sources disagree: ${root.opinions.map(({ witness, partition }) => `${witness} says ${partition ?? 'none'}`).join(', ')}.`,
      'Open the package of the installed build: what it holds decides.',
    );
  if (root.partition === null)
    return root.sure
      ? ask('partition', text, true, 'no', root.reason, 'No other way is known here.')
      : ask(
          'partition',
          text,
          true,
          'unknown',
          root.reason,
          'Open its package, or paste its bootloader variables.',
        );
  return root.sure
    ? ask('partition', text, true, 'yes', `${root.reason} Root sits in ${root.partition}.`)
    : ask('partition', text, true, 'unknown', root.reason, 'Open the package of the installed build.');
}

function kitQuestion({ kits }: FeasibilityInput): Question {
  const text = 'Does a kit support it?';
  if (kits === null)
    return ask(
      'kit',
      text,
      true,
      'unknown',
      'Its platform level is not known.',
      'Paste the property dump of the running system.',
    );
  const stable = kits.find(({ channel }) => channel === 'stable') ?? kits[0];
  return stable
    ? ask('kit', text, true, 'yes', `${stable.name} (${stable.channel}) says it does.`)
    : ask(
        'kit',
        text,
        true,
        'no',
        'No kit in the vault supports this release and partition.',
        'Bring a kit in under Firmware, or wait for one.',
      );
}

function recoveryQuestion({ recoveries }: FeasibilityInput): Question {
  const text = 'Is there a recovery for this variant?';
  return recoveries.length > 0
    ? ask('recovery', text, false, 'yes', `${recoveries.map(({ name }) => name).join(', ')}.`)
    : ask(
        'recovery',
        text,
        false,
        'unknown',
        'None on the shelf names this handset.',
        'Ask its author which variant and release it was made for.',
      );
}

function floorQuestion({ floors }: FeasibilityInput): Question {
  const text = 'Is it above the three floors?';
  const below = floors.find(({ verdict }) => verdict === 'below');
  if (below) return ask('floors', text, true, 'no', below.sentence, 'Take a build that is not below it.');
  const unknown = floors.find(({ id, verdict }) => verdict === 'unknown' && id !== 'maker');
  return unknown
    ? ask(
        'floors',
        text,
        true,
        'unknown',
        `${unknown.title} is not known.`,
        'Paste its bootloader variables.',
      )
    : ask('floors', text, true, 'yes', 'No floor stands in the way of the installed build.');
}

function dataQuestion({ data }: FeasibilityInput): Question {
  const text = 'Will the data open afterwards?';
  const answer: Answer =
    data.verdict === 'opens' ? 'yes' : data.verdict === 'may not open' ? 'no' : 'unknown';
  return ask('data', text, false, answer, data.sentence, 'Take the image of the build that runs.');
}

function appsQuestion({ dependencies }: FeasibilityInput): Question {
  const text = 'Can you do without what stops working?';
  if (dependencies.length === 0)
    return ask(
      'apps',
      text,
      false,
      'unknown',
      'Payments, work and banking apps and some films may stop; none are noted.',
      'Note the apps this handset can’t do without.',
    );
  const stops = dependencies.filter(({ effect }) => effect === 'stops');
  const needed = stops.filter((one) => one.needed);
  if (needed.length > 0)
    return ask(
      'apps',
      text,
      true,
      'no',
      `${needed.map(({ name }) => name).join(', ')} would stop, and you need it.`,
      'Use another handset for it first.',
    );
  const open = dependencies.filter(({ effect }) => effect === 'unknown');
  if (open.length > 0)
    return ask(
      'apps',
      text,
      false,
      'unknown',
      `Not known: ${open.map(({ name }) => name).join(', ')}.`,
      'Ask others with this handset, or keep them on another one.',
    );
  return ask(
    'apps',
    text,
    false,
    'yes',
    stops.length > 0
      ? `${stops.map(({ name }) => name).join(', ')} will stop; you said you can do without.`
      : 'What you noted keeps working.',
  );
}

function backupQuestion({ backupDays, backupMaxDays, unlocked }: FeasibilityInput): Question {
  const text = 'Is there a backup off the handset?';
  const next = 'Copy its files to this computer and note it here.';
  if (backupDays === null)
    return ask('backup', text, unlocked !== true, 'unknown', 'No backup is noted.', next);
  return backupDays <= backupMaxDays
    ? ask('backup', text, false, 'yes', `One of ${days(backupDays)} ago.`)
    : ask('backup', text, false, 'no', `The newest is ${days(backupDays)} old.`, next);
}
