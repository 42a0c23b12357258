import { describe, expect, it } from 'vitest';
import type { Evidence } from '../rounds/evidence';
import type { PlannedAbout, RoundStep } from '../rounds/round';
import type { StepKey } from '../steps/step-key';
import { HIDDEN_FAULT_IDS } from '../words/hidden-faults';
import { SURPRISE_IDS, SURPRISE_WORDS } from '../words/surprises';
import type { Happened } from './debrief';
import { debrief } from './debrief';
import type { Scene } from './scene';
import {
  CAUSE_OF_FAULT,
  checkScene,
  faultsOf,
  MONTH_WORLD,
  MOST_SCENE_BYTES,
  MOST_SEED,
  readSceneFile,
  sceneFile,
  sceneTitle,
  surprisesOf,
  TROUBLE_WORLD,
} from './scene';
import { drawSurprises, IN_A_MONTH, MOST_ODDS } from './surprises';
import type { TrueState } from './true-state';
import { untrueOf } from './true-state';

const bytes = (text: string) => new TextEncoder().encode(text);
const codeOf = (work: () => unknown): string => {
  try {
    work();
    return 'nothing';
  } catch (thrown) {
    return (thrown as { code: string }).code;
  }
};
const PLAIN = { seed: 0, pace: 1, slip: null, odds: null } as const;
const TROUBLE: Scene = { ...PLAIN, kind: 'trouble', work: TROUBLE_WORLD, seed: 7, pace: 20 };
const MONTH: Scene = { ...PLAIN, kind: 'month', work: MONTH_WORLD, seed: 3, odds: { 'cable-out': 9 } };
const file = (change: object) =>
  JSON.stringify({ eternoScene: 2, ...PLAIN, kind: 'work', work: 4, ...change });

describe('a scene', () => {
  it('comes out of its file as it went in', () => {
    const scenes: readonly Scene[] = [
      TROUBLE,
      MONTH,
      { ...PLAIN, kind: 'work', work: 20 },
      { ...PLAIN, kind: 'work', work: null },
      { ...PLAIN, kind: 'slip', work: 13, slip: 'slot-changed' },
      { ...PLAIN, kind: 'slip', work: null, slip: 'cable-out' },
    ];
    for (const scene of scenes) expect(readSceneFile(bytes(sceneFile(scene)))).toEqual(scene);
  });
  it.each([
    [file({ work: 21 }), 'bad-field'],
    [file({ work: 0 }), 'bad-field'],
    [file({ kind: 'trouble', work: 4 }), 'bad-field'],
    [file({ kind: 'trouble', work: TROUBLE_WORLD, seed: MOST_SEED + 1 }), 'bad-field'],
    [file({ seed: 0.5 }), 'bad-field'],
    [file({ pace: 2 }), 'bad-field'],
    [file({ eternoScene: 3 }), 'bad-field'],
    // a slip belongs to a scene about one, and to the works where it comes up
    [file({ slip: 'cable-out' }), 'bad-field'],
    [file({ kind: 'slip' }), 'bad-field'],
    [file({ kind: 'slip', work: 9, slip: 'cable-out' }), 'bad-field'],
    [file({ kind: 'slip', slip: 'stuck-merge' }), 'bad-field'],
    // odds belong to a month
    [file({ odds: { 'cable-out': 2 } }), 'bad-field'],
    [file({ kind: 'month', work: MONTH_WORLD, odds: { gremlins: 2 } }), 'bad-field'],
    [file({ kind: 'month', work: MONTH_WORLD, odds: { 'cable-out': 0 } }), 'bad-field'],
    [file({ kind: 'month', work: MONTH_WORLD, odds: { 'cable-out': MOST_ODDS + 1 } }), 'bad-field'],
    [file({ kind: 'month', work: MONTH_WORLD, odds: [1] }), 'bad-field'],
    ['null', 'bad-field'],
    ['[]', 'bad-field'],
    ['no', 'corrupt'],
    ['[[[[[]]]]]', 'too-large'],
    [' '.repeat(MOST_SCENE_BYTES + 1), 'too-large'],
  ])('%s is none: %s', (text, code) => {
    expect(codeOf(() => readSceneFile(bytes(text)))).toBe(code);
  });
  it('of the first version is read as what it was then', () => {
    const first = (more: object) => bytes(JSON.stringify({ eternoScene: 1, seed: 0, pace: 5, ...more }));
    expect(readSceneFile(first({ kind: 'work', work: 20 }))).toMatchObject({
      kind: 'work',
      work: 20,
      pace: 5,
    });
    // it had nine faults: 16 was the eighth
    const trouble = readSceneFile(first({ kind: 'trouble', work: 5, seed: 16 }));
    expect(trouble).toMatchObject({ kind: 'trouble', work: TROUBLE_WORLD });
    expect(faultsOf(trouble)[0]).toBe('stuck-update');
    for (const other of [
      { kind: 'trouble', work: 4 },
      { kind: 'month', work: MONTH_WORLD },
    ])
      expect(codeOf(() => readSceneFile(first(other)))).toBe('bad-field');
  });
  it('of trouble names a fault by its number, the same each time, and each of them by some', () => {
    expect(faultsOf(TROUBLE)).toEqual(faultsOf(TROUBLE));
    expect([...faultsOf(TROUBLE)].sort()).toEqual([...HIDDEN_FAULT_IDS].sort());
    const first = HIDDEN_FAULT_IDS.map((_, seed) => faultsOf({ seed })[0]);
    expect(new Set(first).size).toBe(HIDDEN_FAULT_IDS.length);
    expect(new Set(HIDDEN_FAULT_IDS.map((fault) => CAUSE_OF_FAULT[fault])).size).toBe(first.length);
    for (const fault of HIDDEN_FAULT_IDS) expect(sceneTitle(TROUBLE)).not.toContain(fault);
  });
  it('of work is one that there is', () => {
    expect(codeOf(() => checkScene({ kind: 'work', work: 20, seed: 0, pace: 5 }))).toBe('nothing');
    expect(codeOf(() => checkScene({ ...PLAIN, kind: 'slip', work: 13, slip: 'slot-changed' }))).toBe(
      'nothing',
    );
    expect(codeOf(() => checkScene(undefined))).toBe('bad-field');
  });
});

const strong: Evidence = { what: 'seen', strength: 'strong' };
const weak: Evidence = { what: 'said', strength: 'weak' };
const PLANNED: PlannedAbout = {
  version: 1,
  slot: 'a',
  build: '',
  mode: 'system',
  writes: false,
  erases: false,
  starts: false,
  holds: false,
  pointOfNoReturn: false,
  rootAfter: null,
  offers: 0,
  minutes: [1, 3],
  ifItEndsHere: '',
};
const step = (key: StepKey, change: Partial<RoundStep> = {}): RoundStep => ({
  id: key,
  key,
  planned: PLANNED,
  state: 'done',
  startedAt: 0,
  endedAt: 60_000,
  actor: 'hand',
  evidence: [strong],
  ...change,
});
const of = (steps: readonly RoundStep[], change: Partial<Parameters<typeof debrief>[0]> = {}) =>
  debrief({ steps, happened: [], truly: [], overridden: [], pace: 1, ...change });
const wipes = (...counts: readonly number[]) =>
  counts.map((count, i) => ({ at: i, key: 'unlock', done: true, state: { ...TRULY, wipes: count } }));
const failed = (key: StepKey): Happened => ({ at: 1, kind: 'failed', key, what: 'the cable was lost' });

describe('surprises', () => {
  it('are those of the scene: none of a piece of work, one of a slip, three of a month', () => {
    expect(surprisesOf({ ...PLAIN, kind: 'work', work: 4 })).toEqual([]);
    expect(surprisesOf({ ...PLAIN, kind: 'slip', work: 13, slip: 'slot-changed' })).toEqual(['slot-changed']);
    expect(surprisesOf(TROUBLE)).toEqual([]);
    expect(surprisesOf(MONTH)).toHaveLength(IN_A_MONTH);
  });
  it('are drawn the same by the same number and odds, none twice, and each by some number', () => {
    const all = new Set<string>();
    for (let seed = 0; seed < 60; seed += 1) {
      const drawn = drawSurprises(seed, {});
      expect(drawn).toEqual(drawSurprises(seed, {}));
      expect(new Set(drawn).size).toBe(IN_A_MONTH);
      for (const id of drawn) all.add(id);
    }
    expect([...all].sort()).toEqual([...SURPRISE_IDS].sort());
  });
  it('come the more often the likelier they are', () => {
    const times = (odds: Parameters<typeof drawSurprises>[1]) =>
      Array.from({ length: 400 }, (_, seed) => drawSurprises(seed, odds)).filter((drawn) =>
        drawn.includes('stuck-merge'),
      ).length;
    // three of ten, and nearly always
    expect(times({})).toBeGreaterThan(80);
    expect(times({})).toBeLessThan(170);
    expect(times({ 'stuck-merge': MOST_ODDS })).toBeGreaterThan(380);
  });
  it('of a slip are named in its title, those of a month and of trouble are not', () => {
    const titles = [MONTH, TROUBLE].map(sceneTitle).join(' ');
    for (const id of SURPRISE_IDS) expect(titles).not.toContain(SURPRISE_WORDS[id]);
    expect(sceneTitle({ ...PLAIN, kind: 'slip', work: 13, slip: 'slot-changed' })).toContain('slot');
  });
});

const TRULY: TrueState = { mode: 'system', slot: 'a', rooted: null, wipes: 0, waitedMs: 0, came: [] };

describe('what was only said', () => {
  const about = (change: Partial<PlannedAbout> = {}): PlannedAbout => ({ ...PLANNED, ...change });
  it.each([
    ['so', about(), {}, []],
    ['in another mode', about({ mode: 'bootloader' }), {}, ['mode']],
    ['at the computer', about({ mode: 'computer' }), { mode: 'off' }, []],
    ['without its root', about({ rootAfter: true }), { rooted: false }, ['root']],
    ['with the root that goes', about({ rootAfter: false }), { rooted: true }, ['root']],
    ['where nothing runs', about({ rootAfter: true }), { rooted: null }, []],
    ['not erased', about({ erases: true }), {}, ['erased']],
    ['erased', about({ erases: true }), { wipes: 1 }, []],
  ] as const)('is held against the handset: %s', (_, planned, truly, untrue) => {
    expect(untrueOf(planned, null, { ...TRULY, ...truly }, TRULY)).toEqual(untrue);
  });
  it('is held against the slot that the plan goes on with', () => {
    expect(untrueOf(about(), about({ slot: 'b' }), TRULY, TRULY)).toEqual(['slot']);
    expect(untrueOf(about(), about({ slot: 'a' }), TRULY, TRULY)).toEqual([]);
  });
  it('and was not so went wrong; and was so is luck', () => {
    const said = step('start', { evidence: [weak] });
    const at = (state: Partial<TrueState>) => [
      { at: 60_000, key: 'start', done: true, state: { ...TRULY, ...state } },
    ];
    const [bad] = of([said], { truly: at({ mode: 'looping' }) }).steps;
    expect(bad).toMatchObject({ verdict: 'wrong', untrue: ['mode'], luck: null, wouldShow: 'show it' });
    const [good] = of([said], { truly: at({}) }).steps;
    expect(good).toMatchObject({ verdict: 'luck', untrue: [], luck: 'only said' });
    // what was shown stands, whatever the handset did a moment later
    const [shown] = of([step('start')], { truly: at({ mode: 'looping' }) }).steps;
    expect(shown!.verdict).toBe('right');
  });
  it('waits are counted in their real length', () => {
    const truly = [0, 60_000].map((waitedMs, i) => ({
      at: 60_000 * (i + 1),
      key: i === 0 ? 'write-root' : 'start',
      done: true,
      state: { ...TRULY, waitedMs },
    }));
    const steps = [step('write-root'), step('start', { startedAt: 60_000, endedAt: 120_000 })];
    const took = (pace: number) => of(steps, { truly, pace }).steps.map(({ minutes }) => minutes);
    expect(took(1)).toEqual([1, 1]);
    expect(took(20)).toEqual([1, 1.95]);
  });
});

describe('a debrief', () => {
  it('tells what was shown from what was only said, where it could have been shown', () => {
    const { steps, right, luck } = of([
      step('write-root'),
      step('start', { evidence: [weak] }),
      step('guard-off', { evidence: [weak] }),
      step('prove-root', { actor: 'link', evidence: [weak] }),
      step('close', { state: 'waiting', startedAt: null, endedAt: null, actor: null, evidence: [] }),
    ]);
    expect(steps.map(({ verdict }) => verdict)).toEqual(['right', 'luck', 'right', 'right', 'open']);
    expect(steps[1]).toMatchObject({ luck: 'only said', wouldShow: 'show it' });
    expect([right, luck]).toEqual([3, 1]);
  });
  it('calls it luck where a check was passed over', () => {
    const { steps } = of([step('write-root'), step('start')], { overridden: ['battery'] });
    expect(steps[0]).toMatchObject({ verdict: 'luck', luck: 'past a check', wouldShow: 'the check' });
    expect(steps[1]!.verdict).toBe('right');
  });
  it('keeps what went wrong though it was done in the end, and what it cost', () => {
    const found = of([step('write-root'), step('start', { endedAt: 120_000 })], {
      happened: [failed('write-root'), failed('write-root'), { at: 2, kind: 'anew', key: null, what: '' }],
      truly: wipes(1, 3),
    });
    expect(found.steps[0]).toMatchObject({
      verdict: 'wrong',
      wrong: ['the cable was lost', 'the cable was lost'],
    });
    expect(found).toMatchObject({ wrong: 1, right: 1, wipes: 2, anew: 1, minutes: 3, planned: 6 });
  });
  it('takes a restart that was held back for a slip of the step that held it', () => {
    const { steps } = of([step('take-update'), step('start')], {
      happened: [{ at: 1, kind: 'slip', key: 'take-update', what: 'early restart' }],
    });
    expect(steps[0]).toMatchObject({ verdict: 'wrong', wouldShow: 'the held restart' });
  });
  it('counts the time without root only where the plan has it', () => {
    const note = (at: number, key: StepKey, rooted: boolean | null, done = true) => ({
      at,
      key,
      done,
      state: { ...TRULY, rooted },
    });
    const rootAfter = (key: StepKey, endedAt: number, root: boolean | null) =>
      step(key, { endedAt, planned: { ...PLANNED, rootAfter: root } });
    const steps = [
      rootAfter('read-facts', 0, true),
      rootAfter('bootloader', 60_000, null),
      rootAfter('start', 120_000, true),
      rootAfter('prove-root', 300_000, true),
    ];
    const truly = [
      note(0, 'read-facts', true),
      note(60_000, 'bootloader', null),
      note(120_000, 'start', false),
      // what failed is held against the step before it
      note(180_000, 'prove-root', false, false),
      note(300_000, 'prove-root', true),
    ];
    expect(of(steps, { truly }).rootless).toBe(3);
    expect(of(steps, { truly: truly.slice(0, 3) }).rootless).toBe(0);
    expect(of(steps).rootless).toBe(0);
  });
  it('says where a hint was asked for, which makes nothing wrong', () => {
    const hint: Happened = { at: 1, kind: 'hint', key: 'start', what: '' };
    const { steps, hinted } = of([step('write-root'), step('start')], { happened: [hint, hint] });
    expect(steps.map((one) => [one.verdict, one.hinted])).toEqual([
      ['right', false],
      ['right', true],
    ]);
    expect(hinted).toBe(1);
  });
  it('counts no wipe that the plan has, and nothing of a round in which nothing was done', () => {
    const erases = { planned: { ...PLANNED, erases: true } };
    expect(of([step('unlock', erases)], { truly: wipes(0, 1) }).wipes).toBe(0);
    expect(of([step('unlock', erases)], { truly: wipes(0, 2) }).wipes).toBe(1);
    expect(of([])).toMatchObject({
      wipes: 0,
      right: 0,
      minutes: 0,
      planned: 0,
    });
  });
});
