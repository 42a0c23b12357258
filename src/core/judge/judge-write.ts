import type { ImageCheckId, WriteCheckId, WritePurpose, WriteSaw } from '../words/write';
import type { WriteQuestion } from './write-question';
import { RULES } from './write-rules';

/*
 * May this image be written to this partition of this slot, for this purpose? The one judgement for every
 * write, whoever carries it out (docs/method.md, "What may be written where").
 */

export interface WriteCheck {
  readonly id: WriteCheckId;
  /** Null where nobody knows. */
  readonly holds: boolean | null;
  readonly saw: WriteSaw;
  /** Whether a person may go past it with a typed reason: only past what is not known. */
  readonly overridable: boolean;
}

export interface WriteJudgement {
  readonly verdict: 'allowed' | 'refused' | "can't tell";
  readonly checks: readonly WriteCheck[];
}

const PLACE = ['slot', 'size', 'mode', 'lock', 'battery', 'snapshot'] as const;
const OF_BUILD = ['build', 'handset', 'partition', ...PLACE] as const;
/** A recovery belongs to no build, a bootloader to whatever build brings it; only recoveries have a home. */
const ASKED: Readonly<Record<WritePurpose, readonly ImageCheckId[]>> = {
  root: [...OF_BUILD, 'proof'],
  stock: [...OF_BUILD, 'floor', 'proof'],
  'ready-made': [...OF_BUILD, 'proof'],
  recovery: ['handset', 'partition', 'home', ...PLACE, 'proof'],
  bootloader: ['handset', 'partition', ...PLACE, 'floor', 'proof'],
};

/** One check of a write. */
export function judgeOne(id: ImageCheckId, question: WriteQuestion): WriteCheck {
  const [holds, saw] = RULES[id](question);
  return { id, holds, saw, overridable: holds === null };
}

/** Every check that the purpose asks for, and what follows from them. */
export const judgeWrite = (question: WriteQuestion): WriteJudgement =>
  judgementOf(ASKED[question.purpose].map((id) => judgeOne(id, question)));

/** What follows from checks. */
export function judgementOf(checks: readonly WriteCheck[]): WriteJudgement {
  const refused = checks.some(({ holds }) => holds === false);
  const open = checks.some(({ holds }) => holds === null);
  return { verdict: refused ? 'refused' : open ? "can't tell" : 'allowed', checks };
}
