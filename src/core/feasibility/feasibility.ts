import type { BackupPart } from '../words/backups';
import type { RootPartition } from '../fit/root-partition';
import type { Floor } from './floors';
import type { DataVerdict } from './patch-levels';
import type { FeasibilitySays, QuestionId, VerdictSays } from '../words/feasibility';

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
  readonly unlockSwitch: 'on' | 'off' | 'greyed' | 'hidden' | 'absent' | null;
  readonly clocks: readonly WaitClock[];
  readonly buildKnown: boolean;
  /** An exact full package of the installed build has been opened here. */
  readonly packageAtHand: boolean;
  /** Its stock image of the partition that carries root is in the vault. */
  readonly stockKept: boolean;
  /** Whether the maker's page offers it; null where no page speaks of this handset. */
  readonly offered: boolean | null;
  /** Whole builds that it offers, by number. */
  readonly instead: readonly string[];
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
  /** What of a whole set it does not hold; null where nobody was asked. */
  readonly backupLacks: readonly BackupPart[] | null;
}

export interface Question {
  readonly id: QuestionId;
  readonly answer: Answer;
  readonly says: FeasibilitySays;
  /** A "no" ends it; else it only costs. */
  readonly decides: boolean;
}

export interface Feasibility {
  readonly verdict: 'go' | 'no' | "can't tell";
  readonly says: VerdictSays;
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
  const wipes = input.unlocked !== true;
  return { ...verdictOf(questions, unknowns, wipes), questions, unknowns, wipes };
}

function verdictOf(
  questions: readonly Question[],
  unknowns: readonly Question[],
  wipes: boolean,
): Pick<Feasibility, 'verdict' | 'says'> {
  const noes = questions.filter(({ answer }) => answer === 'no');
  const ends = noes.find(({ decides }) => decides);
  if (ends) return { verdict: 'no', says: { code: 'not-now', because: ends.says } };
  const first = unknowns.find(({ decides }) => decides);
  if (first)
    return { verdict: "can't tell", says: { code: 'find-out', question: first.id, known: first.says } };
  return { verdict: 'go', says: { code: 'go', wipes, costs: noes.map(({ says }) => says) } };
}

const answered =
  (id: QuestionId, decides: boolean) =>
  (answer: Answer, says: FeasibilitySays): Question => ({ id, decides, answer, says });

function buildQuestion({ buildKnown }: FeasibilityInput): Question {
  const ask = answered('build', true);
  return buildKnown ? ask('yes', { code: 'build-known' }) : ask('unknown', { code: 'build-unknown' });
}

function unlockQuestion({ unlocked, unlockSwitch, clocks, now }: FeasibilityInput): Question {
  const ask = answered('unlock', true);
  if (unlocked === true) return ask('yes', { code: 'unlocked' });
  const clock = clocks.find(({ kind, endsAt }) => kind === 'unlock switch' && endsAt > now);
  if (clock) return ask('no', { code: 'switch-clock', days: Math.ceil((clock.endsAt - now) / DAY_MS) });
  switch (unlockSwitch) {
    case 'on':
      return ask('yes', { code: 'switch-on' });
    case 'off':
      return ask('unknown', { code: 'switch-off' });
    case 'greyed':
      return ask('no', { code: 'switch-grey' });
    case 'hidden':
      return ask('unknown', { code: 'switch-hidden' });
    case 'absent':
      return ask('no', { code: 'switch-absent' });
    case null:
      return ask('unknown', { code: 'switch-unread' });
  }
}

function packageQuestion({ packageAtHand, stockKept, offered, instead }: FeasibilityInput): Question {
  const ask = answered('package', true);
  if (packageAtHand) return ask('yes', { code: 'package-at-hand' });
  if (stockKept) return ask('yes', { code: 'only-stock-kept' });
  if (offered === false) return ask('no', { code: 'not-offered', instead });
  return ask('unknown', { code: offered === true ? 'package-offered' : 'no-package' });
}

function partitionQuestion({ root }: FeasibilityInput): Question {
  const ask = answered('partition', true);
  const { agree, opinions, partition, sure, because } = root;
  if (!agree)
    return ask('no', {
      code: 'root-disputed',
      opinions: opinions.map((one) => ({ witness: one.witness, partition: one.partition })),
    });
  if (partition === null)
    return sure
      ? ask('no', { code: 'root-nowhere', because })
      : ask('unknown', { code: 'root-unknown', because });
  return sure
    ? ask('yes', { code: 'root-known', partition, because })
    : ask('unknown', { code: 'root-guessed', because });
}

function kitQuestion({ kits }: FeasibilityInput): Question {
  const ask = answered('kit', true);
  if (kits === null) return ask('unknown', { code: 'level-unknown' });
  const kit = kits.find(({ channel }) => channel === 'stable') ?? kits[0];
  return kit
    ? ask('yes', { code: 'kit', name: kit.name, channel: kit.channel })
    : ask('no', { code: 'no-kit' });
}

function recoveryQuestion({ recoveries }: FeasibilityInput): Question {
  const ask = answered('recovery', false);
  return recoveries.length > 0
    ? ask('yes', { code: 'recoveries', names: recoveries.map(({ name }) => name) })
    : ask('unknown', { code: 'no-recovery' });
}

function floorQuestion({ floors }: FeasibilityInput): Question {
  const ask = answered('floors', true);
  const below = floors.find(({ verdict }) => verdict === 'below');
  if (below) return ask('no', { code: 'below-floor', floor: below.says });
  const unknown = floors.find(({ id, verdict }) => verdict === 'unknown' && id !== 'maker');
  return unknown
    ? ask('unknown', { code: 'floor-unknown', floor: unknown.id })
    : ask('yes', { code: 'above-floors' });
}

const DATA_ANSWERS: Readonly<Record<DataVerdict['verdict'], Answer>> = {
  opens: 'yes',
  'may not open': 'no',
  "can't tell": 'unknown',
};

function dataQuestion({ data }: FeasibilityInput): Question {
  const answer = DATA_ANSWERS[data.verdict];
  const code = answer === 'yes' ? 'data-opens' : 'data-doubtful';
  return answered('data', false)(answer, { code, data: data.says });
}

function appsQuestion({ dependencies }: FeasibilityInput): Question {
  const ask = (decides: boolean) => answered('apps', decides);
  const names = (list: readonly Dependency[]) => list.map(({ name }) => name);
  if (dependencies.length === 0) return ask(false)('unknown', { code: 'no-apps-noted' });
  const stops = dependencies.filter(({ effect }) => effect === 'stops');
  const needed = stops.filter((one) => one.needed);
  if (needed.length > 0) return ask(true)('no', { code: 'apps-needed', names: names(needed) });
  const open = dependencies.filter(({ effect }) => effect === 'unknown');
  if (open.length > 0) return ask(false)('unknown', { code: 'apps-unknown', names: names(open) });
  return stops.length > 0
    ? ask(false)('yes', { code: 'apps-done-without', names: names(stops) })
    : ask(false)('yes', { code: 'apps-keep-working' });
}

function backupQuestion({ backupDays, backupMaxDays, backupLacks, unlocked }: FeasibilityInput): Question {
  if (backupDays === null) return answered('backup', unlocked !== true)('unknown', { code: 'no-backup' });
  const ask = answered('backup', false);
  if (backupDays <= backupMaxDays && backupLacks !== null && backupLacks.length > 0)
    return ask('no', { code: 'part-backup', lacks: backupLacks });
  return backupDays <= backupMaxDays
    ? ask('yes', { code: 'backup', days: backupDays })
    : ask('no', { code: 'old-backup', days: backupDays });
}
