import { describe, expect, it } from 'vitest';
import type { Moment } from './command';
import { close } from './close';
import type { Decision } from './decision';
import { isRefusal } from './decision';
import type { RoundStep } from './round';
import type { SignOffClaim } from './sign-off';

/* What a round knows of root when it is signed off, and what keeps it open. */

const step: RoundStep = {
  id: 's',
  key: 'close',
  state: 'waiting',
  startedAt: null,
  endedAt: null,
  actor: null,
  evidence: [],
  planned: {
    version: 1,
    slot: 'a',
    build: 'b',
    mode: 'system',
    writes: false,
    erases: false,
    starts: false,
    holds: false,
    pointOfNoReturn: false,
    rootAfter: null,
    offers: 0,
    minutes: [1, 1],
    ifItEndsHere: '',
  },
};
const moment = (putBacks: Moment['putBacks'] = []): Moment => ({
  round: {
    id: 'r',
    handsetId: 'h',
    kind: 'first root',
    lane: 'l',
    title: 'First root',
    target: 'b',
    plan: { version: 1 },
    basedOn: null,
    state: 'open',
    version: 1,
    overrides: [],
    openedAt: 1,
    closedAt: null,
    reached: null,
    again: null,
    againNote: null,
  },
  steps: [step],
  putBacks,
  root: null,
  proves: () => null,
});
type Verdict = SignOffClaim['verdict'];
const claim = (
  id: SignOffClaim['id'],
  verdict: Verdict = 'holds',
  missing: string | null = null,
  decides = true,
): SignOffClaim => ({ id, claim: id, evidence: [], verdict, decides, missing });

const closed = (claims: readonly SignOffClaim[], notReached = false): Decision => {
  const answer = close(moment(), step, { do: 'close', claims, notReached, carryOver: [] }, 9);
  if (isRefusal(answer)) throw new Error(answer.because);
  return answer;
};
const rootOf = (...claims: readonly SignOffClaim[]) => {
  const event = closed(claims, true).events.find(({ kind }) => kind === 'root');
  return event?.kind === 'root' ? event.data.state : null;
};

describe('what is known of root at the end', () => {
  it.each<[string, readonly SignOffClaim[], string | null]>([
    ['nothing where nothing speaks of it', [], null],
    ['proven where it works and nothing is missing', [claim('root-works')], 'proven'],
    ['only said where a proof is missing', [claim('root-works', 'holds', 'a restart')], 'unproven'],
    ['nothing where nobody saw it work', [claim('root-works', 'open')], null],
    ['stock where it is gone and the system starts', [claim('no-root'), claim('starts')], 'stock'],
    ['stock where nobody asked whether it starts', [claim('no-root')], 'stock'],
    ['nothing where it does not start', [claim('no-root'), claim('starts', 'no')], null],
    ['nothing where nobody saw it gone', [claim('no-root', 'open'), claim('starts')], null],
    ['nothing where root was asked for too', [claim('root-works', 'no'), claim('no-root')], null],
  ])('%s', (_what, claims, state) => expect(rootOf(...claims)).toBe(state));
  it('is a trial of the kit only where root is proven', () => {
    expect(closed([claim('root-works')]).trials).toMatchObject([{ outcome: 'worked' }]);
    expect(closed([claim('root-works', 'holds', 'a restart')]).trials).toEqual([]);
    expect(closed([claim('no-root')]).trials).toEqual([]);
  });
});

describe('closing', () => {
  it('needs every claim that decides, or the word that it is not reached', () => {
    const open = [
      claim('root-works', 'open'),
      claim('starts', 'no'),
      claim('data-there', 'open', null, false),
    ];
    expect(close(moment(), step, { do: 'close', claims: open, notReached: false, carryOver: [] }, 9)).toEqual(
      {
        because: 'claims-open',
        claims: ['root-works', 'starts'],
      },
    );
    expect(closed(open, true).round).toEqual({ state: 'closed', closedAt: 9, reached: 'no' });
    expect(closed([claim('root-works'), claim('data-there', 'open', null, false)]).round).toMatchObject({
      reached: 'yes',
    });
    // who says that it is not reached says nothing where it is
    expect(closed([claim('root-works')], true).round).toMatchObject({ reached: 'yes' });
  });
  it('takes along by name what is still changed for a while, or not at all', () => {
    const still = moment([
      { id: 'p', kind: 'modules-off', what: 'The modules are off' },
      { id: 'q', kind: 'debugging', what: 'Debugging is on' },
    ]);
    const with_ = (carryOver: readonly string[]) =>
      close(still, step, { do: 'close', claims: [], notReached: false, carryOver }, 9);
    expect(with_(['p'])).toEqual({ because: 'put-backs-open', what: ['Debugging is on'] });
    const answer = with_(['p', 'q']);
    expect(isRefusal(answer)).toBe(false);
    expect((answer as Decision).events.at(-1)).toMatchObject({
      kind: 'round-closed',
      data: { reached: true, carriedOver: ['The modules are off', 'Debugging is on'] },
    });
  });
});
