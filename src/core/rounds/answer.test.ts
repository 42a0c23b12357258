import { describe, expect, it } from 'vitest';
import type { Observation } from '../observe/expectation';
import type { StepKey } from '../steps/step-key';
import { DEEDS, DONE_HERE } from '../steps/deeds';
import { OUTCOMES, outcomesOf } from '../steps/outcomes';
import type { OutcomeId } from '../words/outcomes';
import { OUTCOME_WORDS } from '../words/outcomes';
import { COULD_NOT_TELL } from '../words/step-evidence';
import type { Answer, Answered, Moment } from './command';
import { answered, evidenceOf, isLasting, rootAfterStart } from './answer';
import type { Decision } from './decision';
import { isRefusal } from './decision';
import type { PlannedAbout, Round, RoundStep } from './round';

const NOW = 100_000;
const PLANNED: PlannedAbout = {
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
};
const step = (key: StepKey, planned: Partial<PlannedAbout> = {}): RoundStep => ({
  id: key,
  key,
  state: 'waiting',
  startedAt: null,
  endedAt: null,
  actor: null,
  evidence: [],
  planned: { ...PLANNED, ...planned },
});
const ROUND = { kind: 'first root', overrides: [], openedAt: 0, target: 'b1' } as unknown as Round;
const moment = (one: RoundStep, change: Partial<Moment> = {}): Moment => ({
  round: ROUND,
  steps: [one, step('close')],
  putBacks: [],
  root: null,
  proves: () => null,
  ...change,
});
const SLOTS = [{ partition: 'boot', slot: 'b', sha256: 'f', certainty: 'predicted', reason: 'r' }] as const;
const DOUBT = [{ partition: 'boot', slot: 'b' }];
const answer = (said: Answer, change: Partial<Answered> = {}): Answered => ({
  answer: said,
  shown: null,
  checks: [],
  slots: SLOTS,
  doubt: DOUBT,
  buildKnown: true,
  fresh: null,
  ...change,
});
const DESCRIBED: Answer = { how: 'as-described', note: '' };
const UNKNOWN: Answer = { how: 'cannot-tell', note: '' };
const otherwise = (outcome: OutcomeId, note = ''): Answer => ({ how: 'otherwise', outcome, note });
const shown = (change: Partial<Observation>): Observation => ({
  verdict: 'met',
  witness: 'system',
  met: [],
  differs: [],
  missing: [],
  harmless: [],
  fault: null,
  unknown: [],
  next: '',
  ...change,
});
const met = (...what: Observation['met'][number]['what'][]) =>
  what.map((one, i) => ({ what: one, seen: `${one}-seen`, line: i + 1 }));

const ask = (
  key: StepKey,
  said: Answered,
  change: Partial<Moment> = {},
  planned: Partial<PlannedAbout> = {},
) => {
  const one = step(key, planned);
  return answered(moment(one, change), one, said, NOW);
};
function decided(...args: Parameters<typeof ask>): Decision {
  const found = ask(...args);
  if (isRefusal(found)) throw new Error(`refused: ${found.because}`);
  return found;
}
const refusal = (...args: Parameters<typeof ask>) => {
  const found = ask(...args);
  return isRefusal(found) ? found.because : null;
};

describe('it went as described', () => {
  it('by a word alone is weak, and what it writes is predicted', () => {
    const { steps, slots } = decided('write-root', answer(DESCRIBED));
    expect(steps![0]).toMatchObject({ state: 'done', actor: 'hand', evidence: [{ strength: 'weak' }] });
    expect(slots).toEqual(SLOTS);
  });
  it('with what shows it is as strong as who says it', () => {
    const strengths = (one: Partial<Observation>) => evidenceOf(shown(one)).map(({ strength }) => strength);
    expect(strengths({ met: met('build', 'serial') })).toEqual(['strong', 'strong']);
    expect(strengths({ met: met('build') })).toEqual(['weak']);
    expect(strengths({ met: met('transfer', 'serial'), witness: 'tool' })).toEqual(['weak', 'strong']);
    expect(strengths({ met: met('transfer', 'hash'), witness: 'tool' })).toEqual(['weak', 'strong']);
    // two kinds: the user that runs, and the bytes
    const refused = { refusedBefore: true } as Partial<Observation>;
    expect(strengths({ met: met('root', 'hash'), ...refused })).toEqual(['strong', 'strong']);
    // who is root in every shell was not granted it
    expect(strengths({ met: met('root', 'hash') })).toEqual(['weak', 'strong']);
  });
  it('never tells the serial', () => {
    const found = evidenceOf(shown({ met: met('build', 'serial') }));
    expect(JSON.stringify(found)).not.toContain('serial-seen');
  });
  it('with a hash that was read out lies there as read', () => {
    const said = answer(DESCRIBED, { shown: shown({ met: met('transfer', 'hash') }) });
    expect(decided('write-root', said).slots).toMatchObject([{ certainty: 'read', slot: 'b' }]);
    const unread = answer(DESCRIBED, { shown: shown({ met: met('transfer') }) });
    expect(decided('write-root', unread).slots).toMatchObject([{ certainty: 'predicted' }]);
  });
  it('is refused where what was shown says otherwise, and nothing changes', () => {
    const differs = [{ what: 'slot', seen: 'b', expected: 'a', line: 1 }] as const;
    const said = answer(DESCRIBED, { shown: shown({ verdict: 'otherwise', differs }) });
    expect(ask('start', said)).toEqual({ because: 'shows-otherwise', fault: null, differs: ['slot'] });
    const fault = { id: 'link-lost', line: 2 } as const;
    expect(ask('write-root', answer(DESCRIBED, { shown: shown({ verdict: 'otherwise', fault }) }))).toEqual({
      because: 'shows-otherwise',
      fault: 'link-lost',
      differs: [],
    });
  });
  it('with a text that shows nothing is kept as weak, and said to show nothing', () => {
    const said = answer(
      { how: 'as-described', note: 'green light' },
      { shown: shown({ verdict: 'not-enough' }) },
    );
    expect(decided('write-root', said).steps![0]!.evidence.map(({ strength }) => strength)).toEqual([
      'weak',
      'weak',
    ]);
  });
  it('reads facts only where a build was shown, or is known from before', () => {
    expect(refusal('read-facts', answer(DESCRIBED, { buildKnown: false }))).toBe('build-unknown');
    expect(
      refusal(
        'read-facts',
        answer(DESCRIBED, { buildKnown: false, shown: shown({ verdict: 'not-enough' }) }),
      ),
    ).toBe('build-unknown');
    expect(refusal('read-facts', answer(DESCRIBED))).toBeNull();
    expect(
      refusal('read-facts', answer(DESCRIBED, { buildKnown: false, shown: shown({ met: met('build') }) })),
    ).toBeNull();
  });
  it('waits for the checks; what is done in Eterno itself is never said', () => {
    const checks = [{ id: 'slot', verdict: 'fails', saw: { code: 'no-kit' }, overridable: false }] as const;
    expect(refusal('write-root', answer(DESCRIBED, { checks }))).toBe('checks-open');
    for (const key of DONE_HERE)
      for (const said of [DESCRIBED, UNKNOWN, otherwise('own-words')])
        expect(refusal(key, answer(said)), key).toBe('done-here');
  });
});

describe('root after a start that went as planned', () => {
  it.each([
    ['first root', false, 'stock', 'stock'],
    ['first root', false, 'proven', 'lost'],
    ['return to stock', false, 'proven', 'stock'],
    ['lock again', false, null, 'stock'],
    ['first root', true, 'broken', 'unproven'],
    ['first root', true, 'proven', undefined],
    ['first root', null, 'broken', undefined],
  ] as const)('in a round of %s, root planned: %s, %s before, is %s', (kind, rootAfter, before, state) => {
    expect(rootAfterStart(kind, step('start', { rootAfter }), before)?.state).toBe(state);
    const { events } = decided(
      'start',
      answer(DESCRIBED),
      { round: { ...ROUND, kind }, root: before },
      { rootAfter },
    );
    // what is known already is not told again
    expect(events.find(({ kind: one }) => one === 'root')?.data).toEqual(
      state === undefined || state === before ? undefined : expect.objectContaining({ state }),
    );
  });
});

describe('it went otherwise', () => {
  const steps = (Object.keys(DEEDS) as StepKey[]).filter((key) => !DONE_HERE.includes(key));
  it('ends no step as done, whatever is said at whichever', () => {
    for (const key of steps) {
      const ids = outcomesOf(DEEDS[key]);
      expect(ids, key).toContain('own-words');
      for (const id of ids) {
        const { steps: after, round } = decided(key, answer(otherwise(id, 'n')));
        expect(after![0], `${key} ${id}`).toMatchObject({ state: 'failed', actor: 'hand' });
        expect(after![0]!.evidence[0]).toMatchObject({ says: 'no', strength: 'weak' });
        expect(round).toEqual({});
      }
    }
  });
  it('says only what can come of the step', () => {
    const at = (key: StepKey) => outcomesOf(DEEDS[key]);
    expect(at('start')).toContain('loops');
    expect(at('write-root')).not.toContain('loops');
    expect(at('write-root')).toEqual(expect.arrayContaining(['refused', 'cut-short', 'not-listed']));
    expect(at('bootloader')).toEqual(expect.arrayContaining(['starts-anyway', 'not-listed']));
    expect(at('bootloader')).not.toContain('cut-short');
    expect(at('prove-root')).toEqual(expect.arrayContaining(['no-root', 'root-denied']));
    expect(refusal('write-root', answer(otherwise('loops')))).toBe('another-step');
    for (const id of Object.keys(OUTCOME_WORDS) as OutcomeId[])
      expect(
        steps.some((key) => OUTCOMES[id].at(DEEDS[key])),
        id,
      ).toBe(true);
  });
  it.each([
    ['cut-short', true],
    ['dark', true],
    ['own-words', true],
    ['refused', false],
    ['not-listed', false],
  ] as const)('%s: what was written is in doubt: %s', (id, doubts) => {
    expect(decided('write-root', answer(otherwise(id))).slots).toEqual(
      doubts ? [expect.objectContaining({ partition: 'boot', slot: 'b', certainty: 'unknown' })] : [],
    );
  });
  it('is in doubt too where the tool says that the link was lost, whatever was picked', () => {
    const at = (id: 'link-lost' | 'cut-short' | 'refused-locked') =>
      decided(
        'write-root',
        answer(otherwise('refused'), { shown: shown({ verdict: 'otherwise', fault: { id, line: 1 } }) }),
      ).slots;
    expect(at('link-lost')).toHaveLength(1);
    expect(at('cut-short')).toHaveLength(1);
    expect(at('refused-locked')).toEqual([]);
  });
  it.each([
    ['start', 'loops', 'broken', 1],
    ['start', 'stays-at-logo', 'broken', 1],
    ['start', 'comes-up-in-bootloader', 'broken', 0],
    ['start', 'comes-up-in-recovery', 'broken', 0],
    ['start', 'asks-for-wipe', 'broken', 0],
    ['start', 'another-build', undefined, 0],
    // found not to run, when nothing was started: no kit is to blame
    ['read-facts', 'loops', 'broken', 0],
    ['prove-root', 'stays-at-logo', 'broken', 0],
    // the disk is as it was
    ['start-once', 'loops', undefined, 1],
    ['prove-root', 'no-root', 'lost', 0],
    ['prove-root', 'root-denied', undefined, 0],
  ] as const)('%s, %s: root is %s', (key, id, state, trials) => {
    const { events, trials: told } = decided(key, answer(otherwise(id)));
    expect(events.find(({ kind }) => kind === 'root')?.data).toEqual(
      state === undefined ? undefined : expect.objectContaining({ state }),
    );
    expect(told).toHaveLength(trials);
    expect(events.at(-1)).toMatchObject({ kind: 'step-failed', data: { key, error: { outcome: id } } });
  });
  it('a lost cable counts as the slip that it is', () => {
    const codeOf = (id: OutcomeId) =>
      (decided('write-root', answer(otherwise(id))).events.at(-1)!.data as { error: { code: string } }).error
        .code;
    expect([codeOf('cut-short'), codeOf('refused')]).toEqual(['link-lost', 'handset-refused']);
  });
  it('keeps what was shown, each with what it says, and never a serial', () => {
    const differs = [
      { what: 'serial', seen: 'SECRET1', expected: 'SECRET2', line: 1 },
      { what: 'slot', seen: 'b', expected: 'a', line: 2 },
    ] as const;
    const { evidence } = decided(
      'start',
      answer(otherwise('another-build'), {
        shown: shown({ verdict: 'otherwise', met: met('build'), differs }),
      }),
    ).steps![0]!;
    expect(evidence.map(({ says }) => says)).toEqual(['no', undefined, 'no', 'no']);
    expect(JSON.stringify(evidence)).not.toContain('SECRET');
  });
});

describe('it can’t be told', () => {
  it('passes over what changes nothing for good, and no claim rests on it', () => {
    const { steps, slots } = decided('bootloader', answer(UNKNOWN));
    const whatIsSaid = (note: string) =>
      decided('bootloader', answer({ ...UNKNOWN, note })).steps![0]!.evidence.map(({ what }) => what);
    expect(whatIsSaid(' ')).toEqual([COULD_NOT_TELL]);
    expect(whatIsSaid('dark')).toEqual([`${COULD_NOT_TELL}, “dark”`]);
    expect(steps![0]).toMatchObject({ state: 'done', evidence: [{ says: 'unknown' }] });
    expect(slots).toEqual([]);
  });
  it('leaves what writes or erases undone, and in doubt', () => {
    for (const key of ['write-root', 'write-stock', 'unlock', 'start-once'] as const) {
      const { steps, slots } = decided(key, answer({ ...UNKNOWN, note: 'dark' }));
      expect(steps![0], key).toMatchObject({ state: 'failed', evidence: [{ says: 'unknown' }] });
      expect(slots).toMatchObject([{ certainty: 'unknown' }]);
    }
    expect(decided('start', answer(UNKNOWN), {}, { erases: true }).steps![0]!.state).toBe('failed');
    expect(isLasting(step('start'))).toBe(false);
  });
  it('goes on past reading facts only where they are known from before', () => {
    expect(refusal('read-facts', answer(UNKNOWN, { buildKnown: false }))).toBe('build-unknown');
    expect(refusal('read-facts', answer(UNKNOWN))).toBeNull();
  });
});
