import type { Refusal } from '../words/refusals';
import * as say from '../words/step-evidence';
import type { Command, Moment } from './command';
import type { Decision } from './decision';
import type { RootTelling, RoundStep, Seen } from './round';
import { NOTHING_SEEN } from './round';
import type { SignOffClaim } from './sign-off';
import { unreached } from './sign-off';
import { endStep, strong } from './step-ends';

/** What a round knows of root at its end; null where it says nothing. */
function rootAtEnd(claims: readonly SignOffClaim[]): RootTelling | null {
  const claim = (id: SignOffClaim['id']) => claims.find((one) => one.id === id);
  const [works, none] = [claim('root-works'), claim('no-root')];
  if (works?.verdict === 'holds')
    return works.missing === null
      ? { state: 'proven', why: say.ROOT_AT_CLOSING.yes }
      : { state: 'unproven', why: say.ROOT_AT_CLOSING.no };
  return works === undefined && none?.verdict === 'holds' && claim('starts')?.verdict !== 'no'
    ? { state: 'stock', why: say.ROOT_AT_CLOSING.gone }
    : null;
}

/**
 * The last step and the round end together: a round is never left open with nothing to do. What was not
 * reached is closed as that, and what is still changed for a while goes along by name, or not at all.
 */
export function close(
  moment: Moment,
  step: RoundStep,
  { claims, notReached, carryOver }: Extract<Command, { do: 'close' }>,
  now: number,
): Decision | Refusal {
  const missing = unreached(claims);
  if (missing.length > 0 && !notReached)
    return { because: 'claims-open', claims: missing.map(({ claim }) => claim) };
  const left = moment.putBacks.filter(({ id }) => !carryOver.includes(id));
  if (left.length > 0) return { because: 'put-backs-open', what: left.map(({ what }) => what) };
  const reached = missing.length === 0;
  const root = rootAtEnd(claims);
  const seen: Seen = {
    ...NOTHING_SEEN,
    root,
    trials: root?.state === 'proven' ? [{ outcome: 'worked', note: say.ROOT_PROVED_IN_ROUND }] : [],
  };
  const ended = endStep(moment, step.id, 'computer', [strong(say.SIGNED_OFF)], seen, now);
  const { title } = moment.round;
  const carriedOver = moment.putBacks.map(({ what }) => what);
  return {
    ...ended,
    round: { state: 'closed', closedAt: now, reached: reached ? 'yes' : 'no' },
    events: [...ended.events, { kind: 'round-closed', data: { title, reached, carriedOver } }],
  };
}
