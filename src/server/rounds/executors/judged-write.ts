import 'server-only';
import { EternoError } from '@/core/errors';
import { judgeWrite } from '@/core/judge/judge-write';
import { writeSawWords } from '@/core/words/write';
import type { AboutToWrite, Sent } from '../write-questions';
import { questionOf } from '../write-questions';
import type { StepRun } from './running';

/*
 * The judgement of every write, asked once more by whoever sends the bytes: link, download mode and root from
 * inside alike (docs/method.md, "What may be written where"). What nobody knows was asked by the step's gates;
 * what is wrong is never sent.
 */

/**
 * Looks at a write once more before its first byte.
 * @throws {EternoError} `refused` for what is wrong; nothing was sent
 */
export async function needJudged(running: StepRun, sent: Sent, about: AboutToWrite): Promise<void> {
  const wrong = judgeWrite(await questionOf(running, sent, about)).checks.find(
    ({ holds }) => holds === false,
  );
  if (wrong)
    throw new EternoError('refused', `${writeSawWords(wrong.saw)} Nothing of this image was written.`, {
      details: { check: wrong.id },
    });
}
