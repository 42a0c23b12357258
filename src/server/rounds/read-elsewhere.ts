import 'server-only';
import type { Evidence } from '@/core/rounds/evidence';
import { DEEDS } from '@/core/steps/deeds';
import { staysInside } from '@/core/ways/sheet';
import * as say from '@/core/words/step-evidence';
import type { RoundContext } from './round-context';
import { patchedOf, slotOf } from './round-context';

/**
 * What was read back in another room and speaks for this round: the image that root was proved with, on its
 * slot, read after everything that was written there.
 */
export function readElsewhere(context: RoundContext): readonly Evidence[] {
  return [...readBackThere(context), ...untilRestart(context)];
}

/** Root that was let in from inside, and is noted to end with the next restart. */
const untilRestart = ({ round, subject }: RoundContext): readonly Evidence[] =>
  round.kind === 'root without unlocking' && !staysInside(subject.ways)
    ? [{ what: say.UNTIL_RESTART, strength: 'weak', about: 'root-lasts', says: 'no' }]
    : [];

function readBackThere(context: RoundContext): readonly Evidence[] {
  const { steps, subject, rootPartition, round } = context;
  const prove = steps.find(({ key }) => DEEDS[key].proves?.includes('root-works') === true);
  if (!prove || rootPartition === null) return [];
  const written = steps.filter(({ key, endedAt }) => DEEDS[key].writes !== null && endedAt !== null);
  const after = written.reduce((latest, { endedAt }) => Math.max(latest, endedAt!), round.openedAt);
  const slot = slotOf(context, prove) ?? '-';
  const read = subject.cells.find((cell) => cell.partition === rootPartition && cell.slot === slot)?.read;
  const patched = patchedOf(context, prove.planned.build);
  return read && patched && read.sha256 === patched.sha256 && read.at >= after
    ? [
        {
          what: say.readElsewhere(rootPartition, patched.sha256),
          strength: 'strong',
          kind: 'read-back',
          about: 'root-works',
        },
      ]
    : [];
}
