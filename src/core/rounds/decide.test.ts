import { describe, expect, it } from 'vitest';
import type { Check } from '../gates/check';
import type { StepKey } from '../steps/step-key';
import { SET_PARTS } from '../backups/backup-set';
import type { Command, FreshPlan, Moment } from './command';
import { decide } from './decide';
import type { Decision } from './decision';
import { isRefusal } from './decision';
import type { Evidence } from './evidence';
import type { PlannedAbout, Round, RoundStep } from './round';
import { NOTHING_SEEN } from './round';
import { signOff } from './sign-off';

/* A command on a round: what changes because of it, or why nothing does. */

const NOW = 100_000;
const planned = (change: Partial<PlannedAbout> = {}): PlannedAbout => ({
  version: 1,
  slot: 'a',
  build: 'b1',
  mode: 'system',
  writes: false,
  erases: false,
  starts: false,
  holds: false,
  pointOfNoReturn: false,
  rootAfter: null,
  offers: 0,
  minutes: [1, 2],
  ifItEndsHere: '',
  ...change,
});
const step = (key: StepKey, change: Partial<RoundStep> = {}): RoundStep => ({
  id: key,
  key,
  state: 'waiting',
  startedAt: null,
  endedAt: null,
  actor: null,
  evidence: [],
  planned: planned(),
  ...change,
});
const done = (key: StepKey, endedAt = 50_000): RoundStep =>
  step(key, { state: 'done', startedAt: endedAt - 1000, endedAt, actor: 'hand' });
const ROUND: Round = {
  id: 'r',
  handsetId: 'h',
  kind: 'first root',
  lane: 'one-image-once',
  title: 'First root',
  target: 'b1',
  plan: { version: 1 },
  basedOn: null,
  state: 'open',
  version: 4,
  overrides: [],
  openedAt: 10_000,
  closedAt: null,
  reached: null,
  again: null,
  againNote: null,
};
const moment = (steps: readonly RoundStep[], change: Partial<Moment> = {}): Moment => ({
  round: ROUND,
  steps,
  putBacks: [],
  root: null,
  proves: () => null,
  ...change,
});
const check = (id: Check['id'], verdict: Check['verdict'], overridable = verdict === 'unknown'): Check => ({
  id,
  verdict,
  saw: { code: 'no-kit' },
  overridable,
});
const strong = (what: string): Evidence => ({ what, strength: 'strong' });

function decided(at: Moment, command: Command): Decision {
  const answer = decide(at, command, NOW);
  if (isRefusal(answer)) throw new Error(`refused: ${answer.because}`);
  return answer;
}
const refused = (at: Moment, command: Command) => {
  const answer = decide(at, command, NOW);
  return isRefusal(answer) ? answer : null;
};
const statesOf = ({ steps }: Decision) => steps!.map(({ key, state }) => `${key} ${state}`);
const fresh = (keys: readonly StepKey[], change: Partial<FreshPlan> = {}): FreshPlan => ({
  goal: 'first root',
  lane: 'other-lane',
  target: 'b2',
  plan: { version: 1, why: 'new' },
  steps: keys.map((key) => ({ key, planned: planned({ build: 'b2' }) })),
  findOut: false,
  installed: 'b1',
  ...change,
});
const SAY: Extract<Command, { do: 'answer' }> = {
  do: 'answer',
  answer: { how: 'as-described', note: 'it is off' },
  shown: null,
  checks: [],
  slots: [],
  doubt: [],
  buildKnown: true,
  fresh: null,
};

describe('the step to do now', () => {
  it('ends by word, weakly, from when the last one ended', () => {
    const at = moment([done('read-facts', 60_000), step('guard-off'), step('close')]);
    const { steps, events, round } = decided(at, SAY);
    expect(steps![1]).toMatchObject({ state: 'done', startedAt: 60_000, endedAt: NOW, actor: 'hand' });
    expect(steps![1]!.evidence).toEqual([{ what: 'said: it is off', strength: 'weak' }]);
    expect(steps![2]).toBe(at.steps[2]);
    expect(events).toMatchObject([
      { kind: 'step-done', data: { key: 'guard-off', actor: 'hand', seconds: 40 } },
    ]);
    expect(round).toEqual({});
  });
  it('ends from the opening where it is the first, and from its own begin where it has one', () => {
    expect(decided(moment([step('guard-off')]), SAY).steps![0]!.startedAt).toBe(10_000);
    expect(
      decided(moment([step('guard-off', { startedAt: 70_000, state: 'failed' })]), SAY).steps![0]!.startedAt,
    ).toBe(70_000);
  });
  it.each([
    ['none is left', [done('guard-off')], SAY, 'another-step'],
    ['it runs', [step('guard-off', { state: 'running' })], SAY, 'step-runs-already'],
    ['it is done here', [step('protect')], SAY, 'done-here'],
    ['it is no step for a code', [step('guard-off')], { do: 'code', code: 'x' }, 'another-step'],
    ['it has no checks', [step('guard-off')], { do: 'confirm', checks: null, overrides: [] }, 'no-checks'],
    [
      'no reason is given',
      [step('back-up')],
      { do: 'back-up', what: 'none', note: '  ', parts: [] },
      'no-reason',
    ],
    [
      'no page was downloaded',
      [step('protect')],
      { do: 'protect', rescuePage: false, reason: ' ' },
      'no-rescue-page',
    ],
  ] as const)('is refused where %s', (_why, steps, command, because) => {
    expect(refused(moment(steps), command)?.because).toBe(because);
  });
  it('is refused in a round that is over, whatever is asked', () => {
    const at = moment([step('guard-off')], { round: { ...ROUND, state: 'given-up' } });
    expect(refused(at, SAY)?.because).toBe('round-over');
    expect(refused(at, { do: 'settle' })?.because).toBe('round-over');
    expect(refused(at, { do: 'give-up' })?.because).toBe('round-over');
  });
  it('keeps what was written by hand, the code, the backup', () => {
    const slot = { partition: 'boot', slot: 'a', sha256: 's', certainty: 'predicted', reason: 'r' } as const;
    expect(decided(moment([step('write-root')]), { ...SAY, slots: [slot] }).slots).toEqual([slot]);
    expect(decided(moment([step('ask-code')]), { do: 'code', code: '77' }).secrets).toEqual([
      { name: 'code', value: '77' },
    ]);
    expect(
      decided(moment([step('back-up')]), { do: 'back-up', what: 'files', note: 'disk', parts: ['photos'] })
        .backups,
    ).toEqual([{ what: 'files', note: 'disk', parts: ['photos'] }]);
    expect(
      decided(moment([step('back-up')]), { do: 'back-up', what: 'none', note: ' new ', parts: [] }).steps![0]!
        .evidence[0]!.nothingKept,
    ).toBe('new');
  });
  it.each([
    ['files', SET_PARTS.files, /a whole set/],
    ['files', SET_PARTS.files.slice(1), /^not in it: photos and films$/],
    ['image-level', ['data-image'], /root and recovery.*screen lock/],
  ] as const)('says what a backup of kind %s does not hold', (what, parts, says) => {
    const { steps, backups } = decided(moment([step('back-up')]), { do: 'back-up', what, note: '', parts });
    expect(steps![0]!.evidence.map((one) => one.what).at(-1)).toMatch(says);
    expect(backups[0]!.parts).toEqual(parts);
  });
  it('keeps how each app did, beside what was looked at', () => {
    const apps = [
      { name: 'Till', how: 'stopped' },
      { name: 'Maps', how: 'works' },
    ] as const;
    const { steps, apps: kept } = decided(moment([step('look-around')]), {
      do: 'look-around',
      answers: { data: 'works', calls: 'works', payments: 'works' },
      note: '',
      apps,
    });
    expect(kept).toEqual(apps);
    expect(steps![0]!.evidence.slice(-2).map((one) => one.what)).toEqual([
      'Till: stopped working',
      'Maps: works',
    ]);
  });
  it('names the claim of each thing that only the person sees', () => {
    const { steps } = decided(moment([step('look-around')]), {
      do: 'look-around',
      answers: { data: 'works', calls: 'does not work', payments: 'not used here' },
      note: ' a scratch ',
      apps: [],
    });
    expect(steps![0]!.evidence.map(({ about, says }) => [about, says])).toEqual([
      ['data-there', undefined],
      ['calls', 'no'],
      ['payments', undefined],
      [undefined, undefined],
    ]);
  });
});

describe('checks', () => {
  const at = moment([step('check'), step('write-root')], {
    round: { ...ROUND, overrides: [{ checkId: 'battery', reason: 'old' }] },
  });
  it.each([
    [
      'one fails',
      [check('slot', 'holds'), check('room', 'fails', false)],
      [{ checkId: 'room', reason: 'x' }],
      ['room'],
    ],
    ['one is unknown and nothing is said of it', [check('room', 'unknown')], [], ['room']],
    ['the reason is empty', [check('room', 'unknown')], [{ checkId: 'room', reason: ' ' }], ['room']],
  ] as const)('hold the round back where %s', (_why, checks, overrides, open) => {
    expect(refused(at, { do: 'confirm', checks, overrides })).toEqual({
      because: 'checks-open',
      checks: open,
    });
  });
  it('end with a reason of the person’s where they are unknown; other reasons of before stay', () => {
    const command: Command = {
      do: 'confirm',
      checks: [check('slot', 'holds'), check('room', 'unknown')],
      overrides: [
        { checkId: 'room', reason: 'measured' },
        { checkId: 'slot', reason: 'not needed' },
      ],
    };
    const { steps, round } = decided(at, command);
    expect(round.overrides).toEqual([
      { checkId: 'battery', reason: 'old' },
      { checkId: 'room', reason: 'measured' },
    ]);
    expect(steps![0]).toMatchObject({ state: 'done', actor: 'computer' });
    expect(steps![0]!.evidence.map(({ strength }) => strength)).toEqual(['strong', 'weak']);
  });
  it('of another step than “check” are kept, and the step goes on', () => {
    const later = moment([done('check'), step('write-root')]);
    const decision = decided(later, {
      do: 'confirm',
      checks: [check('room', 'unknown')],
      overrides: [{ checkId: 'room', reason: 'm' }],
    });
    expect(decision.steps).toBeNull();
    expect(decision.round.overrides).toEqual([{ checkId: 'room', reason: 'm' }]);
  });
  it('count at a word and at a begin, with the reasons that the round has', () => {
    const open = [check('battery', 'unknown')];
    expect(refused(moment([step('write-root')]), { ...SAY, checks: open })?.because).toBe('checks-open');
    expect(decided({ ...at, steps: [step('write-root')] }, { ...SAY, checks: open }).steps![0]!.state).toBe(
      'done',
    );
    const begin: Command = { do: 'begin', stepId: 'write-root', checks: open, overrides: [] };
    expect(refused(moment([step('write-root')]), begin)?.because).toBe('checks-open');
    expect(
      decided(moment([step('write-root')]), { ...begin, overrides: [{ checkId: 'battery', reason: 'r' }] })
        .steps![0]!.state,
    ).toBe('running');
  });
});

describe('a step over the link', () => {
  const running = moment([
    done('read-facts'),
    step('write-root', { state: 'running', startedAt: 80_000, actor: 'link' }),
    step('start'),
  ]);
  const begin = (stepId: string): Command => ({ do: 'begin', stepId, checks: [], overrides: [] });
  it('begins at its turn or, to put stock back, at one before; never two at once, never one to come', () => {
    const waiting = moment([done('read-facts'), step('write-root'), step('start')]);
    expect(decided(waiting, begin('write-root')).steps![1]).toMatchObject({
      state: 'running',
      startedAt: NOW,
      actor: 'link',
    });
    expect(decided(waiting, begin('read-facts')).steps![0]).toMatchObject({
      state: 'running',
      startedAt: 49_000,
    });
    expect(refused(waiting, begin('start'))?.because).toBe('another-step');
    expect(refused(waiting, begin('nothing'))?.because).toBe('another-step');
    expect(refused(running, begin('write-root'))?.because).toBe('step-runs-already');
  });
  it('ends with all that it saw, in one decision', () => {
    const seen = {
      slots: [{ partition: 'boot', slot: 'a', sha256: 's', certainty: 'read', reason: 'r' } as const],
      root: { state: 'proven', why: 'w' } as const,
      trials: [{ outcome: 'worked', note: 'n' } as const],
      backups: [{ what: 'image-level', note: 'i', parts: ['data-image'] } as const],
    };
    const decision = decided(running, {
      do: 'finish',
      stepId: 'write-root',
      evidence: [strong('x')],
      seen,
      fresh: null,
    });
    expect(decision).toMatchObject({ slots: seen.slots, trials: seen.trials, backups: seen.backups });
    expect(decision.events.map(({ kind }) => kind)).toEqual(['root', 'step-done']);
    expect(decision.steps![1]).toMatchObject({
      state: 'done',
      startedAt: 80_000,
      endedAt: NOW,
      actor: 'link',
      evidence: [strong('x')],
    });
    const told = decided(
      { ...running, root: 'proven' },
      { do: 'finish', stepId: 'write-root', evidence: [], seen, fresh: null },
    );
    expect(told.events.map(({ kind }) => kind)).toEqual(['step-done']);
  });
  it('opens what it changes for a while, and closes what it undoes', () => {
    const off = decided(moment([step('modules-off', { state: 'running' })]), {
      do: 'finish',
      stepId: 'modules-off',
      evidence: [],
      seen: NOTHING_SEEN,
      fresh: null,
    });
    expect(off.putBacks).toEqual({ open: [{ kind: 'modules-off', what: 'The modules are off' }], close: [] });
    const putBacks = [
      { id: 'p1', kind: 'modules-off', what: 'modules' },
      { id: 'p2', kind: 'by hand', what: 'a lock' },
      { id: 'p3', kind: 'take-update', what: 'an update' },
    ];
    const on = decided(moment([step('modules-on', { state: 'running' })], { putBacks }), {
      do: 'finish',
      stepId: 'modules-on',
      evidence: [],
      seen: NOTHING_SEEN,
      fresh: null,
    });
    expect(on.putBacks).toEqual({ open: [], close: [{ id: 'p1', how: 'step modules-on' }] });
  });
  it('what was backed up goes back, until its data is seen there; where nothing is kept nothing does', () => {
    const kept = (what: 'files' | 'none') =>
      decided(moment([step('back-up')]), { do: 'back-up', what, note: 'new', parts: [] }).putBacks.open
        .length;
    expect([kept('files'), kept('none')]).toEqual([1, 0]);
    const putBacks = [{ id: 'p1', kind: 'back-up', what: 'w', openedAt: 1 }] as unknown as Moment['putBacks'];
    const looked = (data: 'works' | 'does not work') =>
      decided(moment([step('look-around')], { putBacks }), {
        do: 'look-around',
        answers: { data, calls: 'does not work', payments: 'does not work' },
        note: '',
        apps: [],
      }).putBacks.close.length;
    expect([looked('works'), looked('does not work')]).toEqual([1, 0]);
  });
  it('that fails says what was written, and what nobody knows', () => {
    const written = {
      partition: 'boot',
      slot: 'a',
      sha256: 's',
      certainty: 'predicted',
      reason: 'r',
    } as const;
    const error = { code: 'link-lost', message: 'gone' } as const;
    const decision = decided(running, {
      do: 'fail',
      stepId: 'write-root',
      error,
      written: ['boot_a'],
      doubt: [{ partition: 'vbmeta', slot: 'a' }],
      seen: { ...NOTHING_SEEN, slots: [written] },
    });
    expect(decision.slots).toMatchObject([
      written,
      { partition: 'vbmeta', slot: 'a', sha256: null, certainty: 'unknown' },
    ]);
    expect(decision.steps![1]!.state).toBe('failed');
    expect(decision.steps![1]!.evidence.map(({ what }) => what)).toEqual([
      'written before it went wrong: boot_a',
      'the write was cut short, vbmeta_a is unknown until it is written again: gone',
    ]);
    expect(decision.events).toMatchObject([{ kind: 'step-failed', data: { key: 'write-root', error } }]);
    const nothing = decided(running, {
      do: 'fail',
      stepId: 'write-root',
      error,
      written: [],
      doubt: [],
      seen: NOTHING_SEEN,
    });
    expect(nothing.steps![1]!.evidence[0]!.what).toBe('nothing was written: gone');
    expect(nothing.slots).toEqual([]);
  });
  it('that was interrupted leaves its partitions unknown', () => {
    const decision = decided(running, {
      do: 'interrupt',
      stepId: 'write-root',
      doubt: [{ partition: 'boot', slot: null }],
    });
    expect(decision.slots).toMatchObject([
      { partition: 'boot', slot: null, certainty: 'unknown', sha256: null },
    ]);
    expect(statesOf(decision)).toEqual(['read-facts done', 'write-root interrupted', 'start waiting']);
    expect(decision.events).toEqual([{ kind: 'step-interrupted', data: { key: 'write-root' } }]);
  });
  it('that put stock back leaves the round before its last write', () => {
    const at = moment([
      done('read-facts'),
      step('write-root', { state: 'running' }),
      done('start'),
      step('prove-root'),
    ]);
    const decision = decided(at, {
      do: 'stand-before',
      stepId: 'write-root',
      evidence: [strong('y')],
      seen: NOTHING_SEEN,
    });
    expect(statesOf(decision)).toEqual([
      'read-facts done',
      'write-root waiting',
      'start waiting',
      'prove-root waiting',
    ]);
    expect(decision.steps![2]).toMatchObject({ startedAt: null, endedAt: null, actor: null, evidence: [] });
  });
});

describe('what the vault proves already', () => {
  const proves: Moment['proves'] = ({ key }) =>
    key === 'take-stock' || key === 'patch' ? [strong(`${key} is there`)] : null;
  it('is over with the step before it, up to the first that is not', () => {
    const at = moment(
      [step('guard-off'), step('take-stock'), step('patch'), step('protect'), step('take-target-stock')],
      { proves },
    );
    const decision = decided(at, SAY);
    expect(statesOf(decision)).toEqual([
      'guard-off done',
      'take-stock done',
      'patch done',
      'protect waiting',
      'take-target-stock waiting',
    ]);
    expect(decision.steps![1]).toMatchObject({
      actor: 'computer',
      startedAt: NOW,
      endedAt: NOW,
      evidence: [strong('take-stock is there')],
    });
    expect(decision.events).toHaveLength(1);
  });
  it('settles by itself, and changes nothing where nothing is new', () => {
    expect(
      statesOf(
        decided(moment([done('read-facts', 70_000), step('take-stock'), step('protect')], { proves }), {
          do: 'settle',
        }),
      ),
    ).toEqual(['read-facts done', 'take-stock done', 'protect waiting']);
    const at = moment([step('protect')], { proves });
    expect(decided(at, { do: 'settle' }).steps).toBe(at.steps);
    expect(
      statesOf(decided(moment([step('take-stock', { state: 'running' })], { proves }), { do: 'settle' })),
    ).toEqual(['take-stock running']);
  });
});

describe('a plan made anew', () => {
  const at = moment([done('read-facts'), done('protect'), step('write-root'), step('close')]);
  it('keeps what is done, leaves out what need not be done twice, and says so in the log', () => {
    const decision = decided(at, {
      do: 'plan-anew',
      fresh: fresh(['read-facts', 'protect', 'start', 'close']),
    });
    expect(statesOf(decision)).toEqual(['read-facts done', 'protect done', 'start waiting', 'close waiting']);
    expect(decision.steps!.map(({ id }) => id)).toEqual(['read-facts', 'protect', null, null]);
    expect(decision.round).toEqual({ lane: 'other-lane', target: 'b2', plan: { version: 1, why: 'new' } });
    expect(decision.events).toMatchObject([{ kind: 'planned-anew', data: { lane: 'other-lane' } }]);
  });
  it('is refused while a step runs', () => {
    expect(
      refused(moment([step('write-root', { state: 'running' })]), {
        do: 'plan-anew',
        fresh: fresh(['close']),
      })?.because,
    ).toBe('step-runs');
  });
  it('keeps what was seen at a slip before there is a way on', () => {
    const seen = { ...NOTHING_SEEN, root: { state: 'broken', why: 'loops' } } as const;
    const decision = decided(moment([step('start')]), {
      do: 'restarted',
      early: true,
      seen,
      fresh: null,
    });
    expect(decision.events.map(({ kind }) => kind)).toEqual(['root', 'slip']);
    expect(decision.steps).toBeNull();
  });
  it('of a restart that nothing held back counts no slip', () => {
    const decision = decided(at, {
      do: 'restarted',
      early: false,
      seen: NOTHING_SEEN,
      fresh: fresh(['close']),
    });
    expect(decision.events.map(({ kind }) => kind)).toEqual(['planned-anew']);
  });
  it('counts a slip, and tells what was seen of root', () => {
    const decision = decided(at, {
      do: 'restarted',
      early: true,
      seen: { ...NOTHING_SEEN, root: { state: 'lost', why: 'w' } },
      fresh: fresh(['close']),
    });
    expect(decision.events.map(({ kind }) => kind)).toEqual(['root', 'slip', 'planned-anew']);
  });
  const reading = moment([step('read-facts', { state: 'running' }), step('write-root'), step('close')]);
  const read = (plan: FreshPlan | null, from: Moment = reading) =>
    decided(from, { do: 'finish', stepId: 'read-facts', evidence: [], seen: NOTHING_SEEN, fresh: plan });
  it.each([
    ['the same steps', fresh(['write-root', 'close'], { plan: { version: 1 } }), false],
    ['another build', fresh(['write-root', 'close'], { plan: { version: 1 }, installed: 'b9' }), true],
    ['a step more', fresh(['write-root', 'start', 'close'], { plan: { version: 1 } }), true],
    ['a step less', fresh(['close'], { plan: { version: 1 } }), true],
    ['other modules off', fresh(['write-root', 'close'], { plan: { version: 1, modulesOff: ['m'] } }), true],
    ['no way at all', null, false],
  ] as const)('after facts were read: %s', (_what, plan, anew) => {
    expect(read(plan).events.some(({ kind }) => kind === 'planned-anew')).toBe(anew);
  });
  it('is made where only one of several steps is not in it any more', () => {
    const longer = moment([
      step('read-facts', { state: 'running' }),
      step('write-root'),
      step('start'),
      step('close'),
    ]);
    const shorter = fresh(['start', 'close'], { plan: { version: 1 } });
    expect(read(shorter, longer).events.some(({ kind }) => kind === 'planned-anew')).toBe(true);
  });
  it('is not made after another step', () => {
    const other = moment([step('bootloader', { state: 'running' }), step('close')]);
    const decision = decided(other, {
      do: 'finish',
      stepId: 'bootloader',
      evidence: [],
      seen: NOTHING_SEEN,
      fresh: fresh(['start']),
    });
    expect(statesOf(decision)).toEqual(['bootloader done', 'close waiting']);
  });
});

describe('modules coming back', () => {
  const state = (good: readonly string[], bad: readonly string[], free: readonly string[]) =>
    ({ good, bad, free: free.map((id) => ({ id, chance: 0.1 })), groups: [] }) as never;
  const batch = (after: never, byHand: boolean): Command => ({
    do: 'batch',
    batch: ['m1'],
    outcome: 'started',
    before: state([], [], ['m1', 'm2']),
    after,
    stays: ['m9'],
    byHand,
  });
  it('are each judged by what the start came to', () => {
    const decision = decided(moment([step('modules-on')]), batch(state(['m1'], ['m2'], []), false));
    expect(decision.moduleTrials.map(({ module, outcome }) => `${module} ${outcome}`)).toEqual([
      'm1 worked',
      'm2 looped',
    ]);
    expect(decision.steps).toBeNull();
  });
  it('belong to their own step', () => {
    expect(refused(moment([step('start')]), batch(state([], [], []), true))?.because).toBe('another-step');
  });
});

describe('root once more after a restart', () => {
  const proved = { ...done('prove-root'), evidence: [strong('granted')] };
  const again = (stepId: string): Command => ({
    do: 'prove-again',
    stepId,
    evidence: [strong('granted again')],
    seen: NOTHING_SEEN,
  });
  it('stands beside what proved it, while its step runs or is done', () => {
    for (const state of ['done', 'running'] as const) {
      const decision = decided(moment([{ ...proved, state }, step('close')]), again(proved.id));
      expect(decision.steps!.find(({ id }) => id === proved.id)).toMatchObject({
        state: 'done',
        evidence: [strong('granted'), { ...strong('granted again'), about: 'root-lasts' }],
      });
    }
  });
  it('is about no other step', () => {
    const start = done('start');
    expect(refused(moment([start, step('close')]), again(start.id))?.because).toBe('another-step');
    expect(refused(moment([step('close')]), again('none'))?.because).toBe('another-step');
  });
});

describe('the end', () => {
  const told = (key: StepKey, evidence: readonly Evidence[]) => ({ ...done(key), evidence });
  const claimsOf = (root: readonly Evidence[]) =>
    signOff(
      ROUND,
      [told('read-facts', [strong('seen')]), told('start', [strong('up')]), told('prove-root', root)],
      [],
    );
  const PROVED = [strong('granted'), strong('read back')];
  const close = (
    root: readonly Evidence[],
    change: Partial<Extract<Command, { do: 'close' }>> = {},
  ): Command => ({
    do: 'close',
    claims: claimsOf(root),
    notReached: false,
    carryOver: [],
    ...change,
  });
  it('is the last step’s and the round’s together', () => {
    const decision = decided(moment([done('read-facts'), step('close')]), close(PROVED));
    expect(decision.round).toEqual({ state: 'closed', closedAt: NOW, reached: 'yes' });
    expect(statesOf(decision)).toEqual(['read-facts done', 'close done']);
    expect(decision.events.map(({ kind }) => kind)).toEqual(['root', 'step-done', 'round-closed']);
    expect(decision.trials).toMatchObject([{ outcome: 'worked' }]);
  });
  it.each([
    ['two strong kinds', PROVED, 'proven', 1],
    ['a word', [{ what: 'w', strength: 'weak' }], 'unproven', 0],
    ['a no', [{ what: 'w', strength: 'strong', says: 'no' }], undefined, 0],
    ['nothing', [], undefined, 0],
  ] as const)('with %s for root says of it what is known', (_what, root, state, trials) => {
    const decision = decided(moment([step('close')]), close(root, { notReached: true }));
    expect(decision.events.find(({ kind }) => kind === 'root')?.data).toEqual(
      state === undefined ? undefined : expect.objectContaining({ state }),
    );
    expect(decision.trials).toHaveLength(trials);
    expect(decision.round.reached).toBe(state === undefined ? 'no' : 'yes');
  });
  it('says stock where that was the goal, it starts, and root was asked for and refused', () => {
    const back = (...more: Parameters<typeof signOff>[1]) =>
      signOff(
        { ...ROUND, kind: 'return to stock' },
        [told('write-stock', [strong('written')]), told('start', [strong('up')]), ...more],
        [],
      );
    // a stock image that was written proves no more than that
    expect(back().find(({ id }) => id === 'no-root')).toMatchObject({ verdict: 'open' });
    const claims = back(told('prove-no-root', [strong('nothing grants it')]));
    const decision = decided(moment([step('close')]), close([], { claims }));
    expect(decision.round.reached).toBe('yes');
    expect(decision.events[0]).toMatchObject({ kind: 'root', data: { state: 'stock' } });
  });
  it('as reached is refused while a claim of it is open or says no, and before its step', () => {
    for (const root of [[], [{ what: 'w', strength: 'strong', says: 'no' }]] as const)
      expect(refused(moment([step('close')]), close(root))).toMatchObject({
        because: 'claims-open',
        claims: ['Root works'],
      });
    expect(refused(moment([step('start'), step('close')]), close(PROVED))?.because).toBe('another-step');
  });
  it('takes along what is still changed, by name, or is refused', () => {
    const putBacks = [
      { id: 'p1', kind: 'modules-off', what: 'modules' },
      { id: 'p2', kind: 'by hand', what: 'a lock' },
    ];
    const at = moment([step('close')], { putBacks });
    expect(refused(at, close(PROVED, { carryOver: ['p1'] }))).toEqual({
      because: 'put-backs-open',
      what: ['a lock'],
    });
    const decision = decided(at, close(PROVED, { carryOver: ['p1', 'p2'] }));
    expect(decision.putBacks.close).toEqual([]);
    expect(decision.events.at(-1)).toMatchObject({ data: { carriedOver: ['modules', 'a lock'] } });
  });
  it('can be given up, unless a step runs, and is answered for only when it was closed', () => {
    expect(decided(moment([step('start')]), { do: 'give-up' }).round).toEqual({
      state: 'given-up',
      closedAt: NOW,
    });
    expect(refused(moment([step('start', { state: 'running' })]), { do: 'give-up' })?.because).toBe(
      'step-runs',
    );
    expect(refused(moment([]), { do: 'again', again: 'yes', note: '' })?.because).toBe('round-open');
    const closed = moment([], { round: { ...ROUND, state: 'closed' } });
    expect(decided(closed, { do: 'again', again: 'no', note: 'late' }).round).toEqual({
      again: 'no',
      againNote: 'late',
    });
    expect(decided(closed, { do: 'again', again: 'yes', note: 'late' }).round).toEqual({
      again: 'yes',
      againNote: null,
    });
  });
});
