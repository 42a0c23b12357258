import { describe, expect, it } from 'vitest';
import type { Evidence } from '../rounds/evidence';
import type { PlannedAbout, RoundStep } from '../rounds/round';
import type { StepKey } from '../steps/step-key';
import { HIDDEN_FAULT_IDS } from '../words/hidden-faults';
import type { Happened } from './debrief';
import { debrief } from './debrief';
import type { Scene } from './scene';
import {
  CAUSE_OF_FAULT,
  checkScene,
  faultsOf,
  MOST_SCENE_BYTES,
  MOST_SEED,
  readSceneFile,
  sceneFile,
  sceneTitle,
} from './scene';

const bytes = (text: string) => new TextEncoder().encode(text);
const codeOf = (work: () => unknown): string => {
  try {
    work();
    return 'nothing';
  } catch (thrown) {
    return (thrown as { code: string }).code;
  }
};
const TROUBLE: Scene = { kind: 'trouble', work: 5, seed: 7, pace: 20 };

describe('a scene', () => {
  it('comes out of its file as it went in', () => {
    for (const scene of [TROUBLE, { kind: 'work', work: 20, seed: 0, pace: 1 } as const])
      expect(readSceneFile(bytes(sceneFile(scene)))).toEqual(scene);
  });
  it.each([
    ['{"eternoScene":1,"kind":"work","work":21,"seed":0,"pace":1}', 'bad-field'],
    ['{"eternoScene":1,"kind":"work","work":0,"seed":0,"pace":1}', 'bad-field'],
    ['{"eternoScene":1,"kind":"trouble","work":4,"seed":0,"pace":1}', 'bad-field'],
    [`{"eternoScene":1,"kind":"trouble","work":5,"seed":${MOST_SEED + 1},"pace":1}`, 'bad-field'],
    ['{"eternoScene":1,"kind":"trouble","work":5,"seed":0.5,"pace":1}', 'bad-field'],
    ['{"eternoScene":1,"kind":"trouble","work":5,"seed":0,"pace":2}', 'bad-field'],
    ['{"eternoScene":2,"kind":"trouble","work":5,"seed":0,"pace":1}', 'bad-field'],
    ['null', 'bad-field'],
    ['[]', 'bad-field'],
    ['no', 'corrupt'],
    ['[[[[[]]]]]', 'too-large'],
    [' '.repeat(MOST_SCENE_BYTES + 1), 'too-large'],
  ])('%s is none: %s', (text, code) => {
    expect(codeOf(() => readSceneFile(bytes(text)))).toBe(code);
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
  debrief({ steps, happened: [], overridden: [], wipes: 0, plannedWipes: 0, ...change });
const failed = (key: StepKey): Happened => ({ at: 1, kind: 'failed', key, what: 'the cable was lost' });

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
      wipes: 2,
      plannedWipes: 1,
    });
    expect(found.steps[0]).toMatchObject({
      verdict: 'wrong',
      wrong: ['the cable was lost', 'the cable was lost'],
    });
    expect(found).toMatchObject({ wrong: 1, right: 1, wipes: 1, anew: 1, minutes: 3, planned: 6 });
  });
  it('takes a restart that was held back for a slip of the step that held it', () => {
    const { steps } = of([step('take-update'), step('start')], {
      happened: [{ at: 1, kind: 'slip', key: 'take-update', what: 'early restart' }],
    });
    expect(steps[0]).toMatchObject({ verdict: 'wrong', wouldShow: 'the held restart' });
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
    expect(of([], { wipes: 0, plannedWipes: 1 })).toMatchObject({
      wipes: 0,
      right: 0,
      minutes: 0,
      planned: 0,
    });
  });
});
