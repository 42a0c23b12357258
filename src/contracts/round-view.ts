import type { CableSettings } from './cable-view';
import type { SetRole } from '@/core/packages/set-roles';
import type { Override, Verdicted } from '@/core/gates/check';
import type { NextBatch } from '@/core/modules/bring-back';
import type { Budget, WipeLine } from '@/core/rounds/budget';
import type { Evidence } from '@/core/rounds/evidence';
import type { Actor, ComparedLane } from '@/core/rounds/round';
import type { Interlock } from '@/core/rounds/interlock';
import type { SignOffClaim } from '@/core/rounds/sign-off';
import type { Prompt, Stage, StepText } from '@/core/steps/step-kind';
import type { KeyCard } from '@/core/ways/speak';
import type { WayBack } from '@/core/vault/way-back';
import type { OutcomeId } from '@/core/words/outcomes';
import type { StepView } from './step-view';
import type { WayView } from './way-view';

export interface RoundStepView extends StepView {
  readonly id: string;
  readonly stage: Stage;
  readonly text: StepText;
  readonly prompts: readonly Prompt[];
  readonly keyCard: KeyCard | null;
  /** What its texts took from the sheet of the model, or would have taken. */
  readonly ways: readonly WayView[];
  /** The person's own command that does it, filled in; null where there is none. */
  readonly command: string | null;
  readonly seconds: readonly [number, number];
  /** What the button says that does it; null where it says what is written, or only to do it. */
  readonly button: string | null;
  /** What would prove it, beside what the person says. */
  readonly expected: readonly string[];
  /**
   * Eterno does it over the link, where the handset is linked; else the person does it and says what they
   * saw.
   */
  readonly byLink: boolean;
  /** How sure the rule behind it is: seen done, only said, inferred. */
  readonly sureness: string;
  /** The last good round of this kind had no such step. */
  readonly isNew: boolean;
  readonly startedAt: number | null;
  readonly endedAt: number | null;
  /** Without pauses; null where it is not over. */
  readonly workedSeconds: number | null;
  readonly actor: Actor | null;
  readonly evidence: readonly Evidence[];
}

/** What a person types, and where. */
export interface HandCommand {
  readonly does: string;
  readonly where:
    | 'on this computer'
    | 'on the second handset'
    | 'in a shell on the handset'
    | 'in a root shell on the handset';
  readonly command: string;
}

/** A file that a step is about, as it is downloaded. */
export interface HandFile {
  readonly sha256: string;
  readonly name: string;
  readonly sizeBytes: number;
  /** Shows its hash on this computer. */
  readonly hashCommand: string;
}

/** One turn of a whole build that is written by hand: a file onto its partitions, or a restart in between. */
export type HandTurn =
  | {
      readonly do: 'write';
      readonly partition: string;
      /** Names with their slots, in the order in which they are written. */
      readonly targets: readonly string[];
      /** The file in the vault; null where it comes out of the package. */
      readonly file: HandFile | null;
      /** The file as the commands name it. */
      readonly fileName: string;
      /** Takes it out of the package; null where it is in the vault. */
      readonly take: string | null;
      /** As the package states them; null where it does not. */
      readonly sizeBytes: number | null;
      readonly sha256: string | null;
      readonly hashCommand: string;
      /** One a target; empty where the person has given no words for it. */
      readonly commands: readonly string[];
    }
  /** An archive of a firmware set, given to the tool that writes it. */
  | {
      readonly do: 'part';
      readonly role: SetRole;
      readonly fileName: string;
      readonly holds: readonly string[];
      /** The patched archive goes in its place. */
      readonly patched: boolean;
    }
  | { readonly do: 'restart'; readonly into: 'bootloader' | 'userspace'; readonly command: string | null };

/** A step done by hand: what it takes, and what can be said of it. */
export interface HandView {
  readonly file: HandFile | null;
  /** What is carried over to a second handset; empty elsewhere. */
  readonly files: readonly HandFile[];
  readonly commands: readonly HandCommand[];
  /** Of a whole build: its files in the order in which they are written; empty elsewhere. */
  readonly turns: readonly HandTurn[];
  /** They are Eterno's own, which reach only a stand-in: the person has given no words of their tool yet. */
  readonly ownWordsMissing: boolean;
  /** What is written right after this step: to have ready; null where nothing is. */
  readonly ahead: {
    readonly title: string;
    readonly file: HandFile | null;
    readonly commands: readonly HandCommand[];
  } | null;
  /** How it is shown that it went as it should; empty where only a word tells. */
  readonly shows: readonly string[];
  readonly outcomes: readonly { readonly id: OutcomeId; readonly words: string }[];
  /** It writes or erases: where nobody can tell, what it left is in doubt. */
  readonly lasting: boolean;
  /** When its build was read last, at the step that reads it; null elsewhere, or where it never was. */
  readonly readAt: number | null;
}

/** The package that has to be sent for a step that writes a whole build. */
export interface BuildPackageNeeded {
  readonly file: { readonly name: string; readonly sizeBytes: number };
  /** The images that pass through, and their size together; null where only unpacking tells. */
  readonly partitions: readonly string[];
  readonly sizeBytes: number | null;
  /** The package lies here from an earlier try. */
  readonly held: boolean;
}

/** Root proved once more after a second restart: what is typed for it, and what has to show. */
export interface ProveAgainView {
  readonly commands: readonly HandCommand[];
  readonly shows: readonly string[];
}

/** What was pasted at a step, line by line. */
export interface ShownView {
  readonly verdict: 'met' | 'otherwise' | 'not-enough';
  readonly lines: readonly {
    readonly line: number;
    readonly text: string;
    readonly mark: 'met' | 'differs' | 'fault' | 'harmless' | 'unknown';
    readonly says: string;
  }[];
  /** Of a whole build: the partitions that were said to be written, with their slots. */
  readonly written: readonly string[];
  /** How what is missing is seen. */
  readonly missing: readonly string[];
  readonly next: string;
}

/** A check in words. */
export interface CheckView extends Verdicted {
  readonly title: string;
  readonly evidence: string;
}

export interface ImageBrief {
  readonly sha256: string;
  readonly partition: string;
  readonly build: string | null;
  readonly kit: string | null;
  readonly sizeBytes: number;
}

export interface PutBackView {
  readonly id: string;
  readonly what: string;
  readonly openedAt: number;
}

/** Modules coming back: what is settled, what is suspected, what is tried next. */
export interface ReturnView {
  readonly good: readonly string[];
  /** They break this build and stay off. */
  readonly bad: readonly string[];
  readonly waiting: readonly string[];
  readonly suspects: readonly { readonly name: string; readonly chance: number }[];
  readonly next: NextBatch | null;
  /** After so many failed starts its kit rests all modules; null where no kit of it says so. */
  readonly restsAfter: number | null;
  readonly nextNames: readonly string[];
}

/** Whether it would be done the same way again, and why not. */
export interface Again {
  readonly answer: 'yes' | 'no';
  readonly note: string;
}

export const againWords = ({ answer, note }: Again): string =>
  answer === 'yes'
    ? 'To be done the same way again.'
    : `Not to be done the same way again${note === '' ? '.' : `: ${note}`}`;

/** What the link sees of the handset while its round waits for the person. */
export type RoundSight = 'fine' | 'loops' | 'restarted';

/** Something of the handset that the person looks up and says. */
export interface AskedFact {
  readonly key: string;
  readonly label: string;
  readonly choices: readonly { readonly value: string; readonly label: string }[];
  /** What is known of it by now. */
  readonly said: string | null;
  /** The step does not end without it. */
  readonly needed: boolean;
}

export interface RoundCable extends CableSettings {
  /** What of the step to do now goes over it: all of it, or only that it is sent off to start. */
  readonly does: 'the step' | 'the restart' | null;
}

export interface RoundView {
  readonly id: string;
  readonly version: number;
  readonly title: string;
  readonly lane: string;
  readonly state: 'open' | 'closed' | 'given-up';
  readonly handset: {
    readonly id: string;
    readonly name: string;
    readonly link: 'stand-in' | 'hand';
    readonly profile: string | null;
    readonly build: string | null;
    readonly slot: string;
  };
  readonly partition: string;
  readonly steps: readonly RoundStepView[];
  /** Index of the step to do now; null when all are done. */
  readonly current: number | null;
  /** What the step to do now writes; null where it writes no single image or the vault has none. */
  readonly image: ImageBrief | null;
  /** The way back of the slot it is about. */
  readonly stock: ImageBrief | null;
  /** The stock image that the step at hand works from; null where the vault has not got it. */
  readonly baseOfStep: ImageBrief | null;
  /** What has to be sent for the step at hand, where it writes a build that is not kept whole. */
  readonly passes: BuildPackageNeeded | null;
  /** At the step that finds out what nobody has read: what the person says in a word. */
  readonly asks: readonly AskedFact[];
  readonly checks: readonly CheckView[];
  readonly overrides: readonly Override[];
  readonly interlock: Interlock | null;
  readonly compared: readonly ComparedLane[];
  readonly wipeLedger: readonly WipeLine[];
  readonly budgets: readonly Budget[];
  /** When the rescue page was downloaded last; null where it was not. */
  readonly rescue: { readonly at: number | null; readonly stale: boolean };
  readonly putBacks: readonly PutBackView[];
  readonly signOff: readonly SignOffClaim[];
  /** The step to do now, done by hand; null where none is. */
  readonly hand: HandView | null;
  /** The same over the browser's cable; null on a handset that has a link of its own. */
  readonly cable: RoundCable | null;
  /** At the step that brings modules back; null elsewhere. */
  readonly comingBack: ReturnView | null;
  /** Where the person looks around: the apps that are noted of the handset; none elsewhere. */
  readonly apps: readonly { readonly name: string; readonly effect: 'stops' | 'keeps working' | 'unknown' }[];
  /** At the end of a round whose root was proved, and not yet after one more restart. */
  readonly proveAgain: ProveAgainView | null;
  /** At this minute, whatever the round is at. */
  readonly wayBack: WayBack;
  readonly runningJob: string | null;
  readonly openedAt: number;
  readonly closedAt: number | null;
  /** Whether it reached what it was for; null while it is open, and in rounds of before that was asked. */
  readonly reached: 'yes' | 'no' | null;
  /** Without pauses. */
  readonly workedSeconds: number;
  /** What the person said of the whole round after it; null where nothing was said. */
  readonly again: Again | null;
}
