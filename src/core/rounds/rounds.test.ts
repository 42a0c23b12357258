import { STAND_IN_WAYS } from '../handset/own-ways';
import { sheetFrom } from '../ways/sheet';
import { NO_WAYS } from '../ways/way-kinds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { PLAIN_PROFILE, PLAIN_STATE } from '../handset/state';
import type { HandsetProfile, HandsetState } from '../handset/state';
import type { GoalId, PlanContext } from '../planning/context';
import { patchedImage, PLAIN_WEIGHTS, stockImage, UNKNOWNS } from '../planning/context';
import { planRound } from '../planning/plan-round';
import { ACTIONS } from '../planning/actions';
import { batteryBudget, roomBudget, wipeLedger } from './budget';
import type { Shell } from '../steps/commands';
import { checkTemplate, COMMAND_VERBS, fillCommand, OWN_VOCABULARY, quoteFor } from '../steps/commands';
import { rescuePage, roundReport, runSheet, toMarkdown } from './documents';
import type { NewStep, RoundStep } from './round';
import { trustsNobody } from './round';
import { AUGUST, SEPTEMBER, world } from '../../../tests/fixtures/plan-world';
import { expandPlan } from './expand-plan';
import { interlockOf } from './interlock';
import type { Deed } from '../steps/deed';
import { DEEDS, undoneBy } from '../steps/deeds';
import type { SignOffStep } from './sign-off';
import { signOff, unreached } from './sign-off';
import { ASK_FOR_ROOT, NO_EVIDENCE, START_ONCE_MORE } from '../words/claims';
import { wasPaused, workedOn, workedSeconds } from './worked';
import type { Evidence } from './evidence';
import { STAGES, STUCK_FACTOR } from '../steps/step-kind';
import type { StepAbout } from '../steps/step-kind';
import type { StepKey } from '../steps/step-key';
import { isStepKey, STEP_KINDS } from '../steps/step-table';
import { tries } from '../../../tests/fixtures/soak';

const NOW = 'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys';
const NEXT = NOW.replace('260905', '261005');
const profile: HandsetProfile = {
  ...PLAIN_PROFILE,
  id: 't',
  product: 'hill',
  model: 'Hill',
  serial: 'S',
  bootloader: 'b',
  baseband: 'r',
  firstApiLevel: 34,
  sdk: 36,
  release: '16',
  maxDownloadBytes: 1 << 28,
  rootPartition: 'init_boot',
  partitionBytes: { init_boot: 100, boot: 100 },
};

function contextFor(goal: GoalId, rooted: boolean, locked = false): PlanContext {
  const base = {
    profile,
    goal,
    target: goal === 'monthly update' ? NEXT : NOW,
    kit: 'burrow 7.3',
    recovery: null,
    fullPackages: [NOW, NEXT],
    incrementalTo: [NEXT],
    kept: [`stock ${NOW}`, `patched ${NOW}`],
    limits: { computer: true, wipeAllowed: true, keepFuse: false },
    weights: PLAIN_WEIGHTS,
    recoveryHomeRead: true,
    fuseKnown: true,
    pace: {},
  };
  const images: Record<string, HandsetState['images'][string]> = {};
  for (const slot of ['a', 'b'])
    for (const partition of ['init_boot', 'boot'])
      images[`${partition}_${slot}`] = stockImage(partition, NOW);
  const draft = { ...base, start: null as unknown as HandsetState };
  if (rooted) images['init_boot_a'] = patchedImage(draft, NOW);
  const slot = { bootable: true, proven: true, triesLeft: 3 };
  const start: HandsetState = {
    ...PLAIN_STATE,
    mode: 'system',
    locked,
    active: 'a',
    slots: { a: slot, b: slot },
    builds: { a: NOW, b: NOW },
    images,
    running: { slot: 'a', build: NOW, rooted },
    rootApp: rooted ? 'ready' : 'absent',
    data: { ...PLAIN_STATE.data, committedBy: NOW },
  };
  return { ...base, start };
}
function stepsOf(goal: GoalId, lane: string, rooted: boolean, locked = false): NewStep[] {
  const context = contextFor(goal, rooted, locked);
  return expandPlan(
    context,
    planRound(context).plans.find((plan) => plan.lane.id === lane)!,
  );
}
const keys = (steps: readonly NewStep[]) => steps.map((step) => step.key);
/** The words a shell makes of a line with single quotes and backslashes. */
function asShell(line: string): string[] {
  const words: string[] = [];
  let word: string | null = null;
  for (let i = 0; i < line.length; i += 1) {
    const char = line[i]!;
    if (char === "'") {
      const end = line.indexOf("'", i + 1);
      word = (word ?? '') + line.slice(i + 1, end);
      i = end;
    } else if (char === '\\') word = (word ?? '') + line[(i += 1)]!;
    else if (/\s/.test(char)) {
      if (word !== null) words.push(word);
      word = null;
    } else word = (word ?? '') + char;
  }
  return word === null ? words : [...words, word];
}
const about: StepAbout = {
  handset: 'North gate',
  partition: 'init_boot',
  recoveryHome: 'recovery',
  slot: 'a',
  otherSlot: 'b',
  bothSlots: false,
  build: 'B.1',
  target: 'B.2',
  unlockPath: 'command',
  modulesOff: [],
  unknown: UNKNOWNS,
  recovery: 'Lifeboat',
  ownRecovery: true,
  install: 'recovery.zip',
  ways: NO_WAYS,
};

describe('a computer’s link after the system was erased', () => {
  const step = (id: string, key: StepKey, erases = false) => ({ id, key, planned: { erases } }) as RoundStep;
  const [before, wipe, start, debugging, after] = [
    step('1', 'read-facts'),
    step('2', 'unlock', true),
    step('3', 'start'),
    step('4', 'debugging'),
    step('5', 'close'),
  ];
  const steps = [before, wipe, start, debugging, after];
  it.each([
    [before, false],
    [wipe, true],
    [start, true],
    // the step at which it is told to trust the computer again
    [debugging, false],
    [after, false],
  ])('at %j: trusts nobody: %s', (at, nobody) => expect(trustsNobody(steps, at)).toBe(nobody));
  it('is not trusted again by what was before a second time', () =>
    expect(trustsNobody([...steps, step('6', 'unlock', true)], { id: '6' })).toBe(true));
});

describe('every kind of step', () => {
  it('is there for each action of the planner', () => {
    for (const action of Object.keys(ACTIONS)) expect(isStepKey(action), action).toBe(true);
  });
  it('says what to do, what is seen, what not to do and what if not, and has a stage and a normal time', () => {
    for (const [key, kind] of Object.entries(STEP_KINDS)) {
      for (const path of ['command', 'mailed code', 'key chord', 'none'] as const)
        for (const [name, text] of Object.entries(kind.text({ ...about, unlockPath: path })))
          expect(text.length, `${key} ${name}`).toBeGreaterThan(9);
      expect(STAGES).toContain(kind.stage);
      expect(kind.seconds[0]).toBeLessThan(kind.seconds[1]);
      for (const prompt of kind.prompts?.(about) ?? []) expect(prompt.wrong.length, key).toBeGreaterThan(10);
    }
  });
  it('names the slot it writes, and none where there is one', () => {
    expect(STEP_KINDS['write-root'].text(about).title).toContain('slot a');
    expect(STEP_KINDS['write-root'].text({ ...about, slot: '' }).title).not.toContain('slot');
  });
});

describe('a plan as a round', () => {
  it('is put between reading and closing, with protection before the handset is touched and checks before the first change', () => {
    const found = keys(stepsOf('first root', 'one-image-once', false));
    expect(found[0]).toBe('read-facts');
    expect(found.at(-1)).toBe('close');
    expect(found.indexOf('protect')).toBeLessThan(found.indexOf('bootloader'));
    expect(found.indexOf('check')).toBe(found.indexOf('write-root') - 1);
    expect(found).toContain('look-around');
  });
  it('protects before the first change also where the system itself makes it, with no step out of it', () => {
    const found = keys(stepsOf('monthly update', 'update-in-place-other-slot', true));
    const inside = found.indexOf('stock-back');
    expect(inside).toBeGreaterThan(0);
    expect(found.indexOf('protect')).toBe(inside - 2);
    expect(found.indexOf('check')).toBe(inside - 1);
  });
  it('holds every restart from the first change of the update to its own start', () => {
    const steps = stepsOf('monthly update', 'update-in-place-other-slot', true);
    const held = steps.filter((step) => step.planned.holds).map((step) => step.key);
    expect(held).toEqual(expect.arrayContaining(['stock-back', 'take-update', 'patch-other-slot']));
    expect(steps.find((step) => step.key === 'start')!.planned).toMatchObject({
      starts: true,
      slot: 'b',
      build: NEXT,
    });
    expect(steps.some((step) => step.planned.pointOfNoReturn)).toBe(true);
    // nothing merges there, and the newer build opens the data all the same
    expect(
      stepsOf('monthly update', 'whole-build-patched', true)
        .filter(({ planned }) => planned.pointOfNoReturn)
        .map(({ planned }) => planned.starts),
    ).toEqual([true]);
  });
  it('knows what erases, and asks for it before', () => {
    const steps = stepsOf('first root', 'one-image-once', false, true);
    const unlock = steps.find((step) => step.key === 'unlock')!;
    expect(unlock.planned).toMatchObject({ erases: true, pointOfNoReturn: true });
    // what erases nothing, merges nothing and raises no floor can be gone back from
    expect(
      stepsOf('first root', 'one-image-once', false).filter(({ planned }) => planned.pointOfNoReturn),
    ).toEqual([]);
    const ledger = wipeLedger(steps, (step) => step.key, true);
    expect(ledger[0]).toMatchObject({ step: 'unlock' });
    // each thing that has to be made or brought back afterwards is named
    for (const lost of ['apps', 'files', 'accounts', 'debugging', 'modules', 'card'])
      expect(ledger[0]!.erases.join(), lost).toContain(lost);
    expect(wipeLedger(steps, (step) => step.key, false)[0]!.erases.join()).not.toContain('modules');
    expect(ledger[0]!.keeps).toContain('what lies in the vault');
    expect(keys(steps).indexOf('debugging')).toBeGreaterThan(keys(steps).indexOf('unlock'));
  });
});

describe('the interlock', () => {
  const planned = stepsOf('monthly update', 'update-in-place-other-slot', true);
  const at = (key: string, state: 'waiting' | 'running' = 'waiting') => {
    const current = planned.findIndex((step) => step.key === key);
    const steps = planned.map((step, i) => ({
      key: step.key,
      holds: step.planned.holds,
      starts: step.planned.starts,
      offers: step.planned.offers,
      state: i < current ? ('done' as const) : i === current ? state : ('waiting' as const),
    }));
    return interlockOf(steps, current, 1);
  };
  it('is open before, shut in between, and open at the restart that belongs there', () => {
    expect(at('stock-back')).toBeNull();
    expect(at('take-update')).toMatchObject({ refused: 1 });
    expect(at('take-update')!.offers).toBeGreaterThanOrEqual(4);
    expect(at('patch-other-slot', 'running')!.why).toContain('other slot');
    expect(at('start')).toBeNull();
    const step = { key: 'take-update', state: 'running', holds: true, starts: false, offers: 1 } as const;
    const start = { key: 'start', state: 'waiting', holds: false, starts: true, offers: 0 } as const;
    expect(interlockOf([step, start], 0, 0)).toMatchObject({ offers: 1 });
    expect(interlockOf([{ ...step, state: 'waiting' }, start], 0, 0)).toBeNull();
    // a step that starts and is done lets go
    expect(
      interlockOf([step, { ...start, state: 'done' }, { ...step, holds: false }, start], 2, 0),
    ).toBeNull();
    // held since the first of several: offers count from there
    const before = { ...step, state: 'done', offers: 2 } as const;
    expect(interlockOf([before, step, start], 1, 0)).toMatchObject({ offers: 3 });
    // what holds says why, not what is done in between
    const between = { ...step, key: 'look-around', holds: false } as const;
    expect(interlockOf([{ ...step, state: 'done' }, between, start], 1, 0)!.why).toBe(
      interlockOf([step, start], 0, 0)!.why,
    );
    expect(interlockOf([], null, 0)).toBeNull();
  });
});

describe('commands', () => {
  const values = { file: "it's mine.img", partition: 'init_boot', slot: 'a', address: '127.0.0.1:5' };
  it.each<[Shell, string]>([
    ['posix', "'it'\\''s mine.img'"],
    ['powershell', "'it''s mine.img'"],
    ['cmd', '"it\'s mine.img"'],
  ])('quote for %s', (shell, quoted) => expect(fillCommand('t {file}', values, shell)).toBe(`t ${quoted}`));
  it('leave out a slot with its option where there is none, and are none where something else is missing', () => {
    expect(fillCommand('t --partition {partition} --slot {slot} x', { ...values, slot: '' }, 'posix')).toBe(
      't --partition init_boot x',
    );
    expect(fillCommand('t {code}', values, 'posix')).toBeNull();
  });
  it('never let a value be more than one word of a shell', () => {
    fc.assert(
      fc.property(fc.string(), (value) => {
        const quoted = quoteFor('posix', value);
        expect(asShell(quoted)).toEqual([value]);
      }),
      tries(),
    );
  });
  it.each(['a\nb', '{nothing}', '{file', `${'x'.repeat(301)}`])(
    'that can not be filled in are refused: %j',
    async (template) => expect(await codeOf(async () => checkTemplate(template))).toBe('bad-field'),
  );
  it('come with the program’s own', () => {
    for (const [verb, template] of Object.entries(OWN_VOCABULARY)) {
      expect(COMMAND_VERBS).toContain(verb);
      expect(() => checkTemplate(template)).not.toThrow();
    }
  });
});

const STEP_KEYS = Object.keys(DEEDS) as (keyof typeof DEEDS)[];

describe('sign-off', () => {
  it('what is changed for a while is undone by the steps that its record names; a note of the person by none', () => {
    expect(undoneBy('modules-off')).toEqual(['modules-on']);
    for (const kind of ['by hand', 'constructor', 'write-root']) expect(undoneBy(kind)).toEqual([]);
  });
  it('whatever writes for good speaks for what is on the handset', () => {
    const forGood = STEP_KEYS.filter((key) => DEEDS[key].writes !== null && DEEDS[key].opens === undefined);
    expect(STEP_KEYS.filter((key) => DEEDS[key].proves?.includes('written'))).toEqual(forGood);
  });
  const seen = (what: string, strength: 'strong' | 'weak' = 'strong') => [{ what, strength }];
  const steps0 = stepsOf('first root', 'one-image-once', false)[0]!;
  const done = (key: SignOffStep['key'], evidence: readonly Evidence[] = seen('x')): SignOffStep => ({
    key,
    state: 'done',
    evidence,
    planned: steps0.planned,
  });
  const OF = { kind: 'keep a recovery', target: null } as const;
  const find = (claims: ReturnType<typeof signOff>, id: string) => claims.find((one) => one.id === id)!;
  it('wants two strong kinds for root, and marks what is only said', () => {
    const weak = signOff(OF, [done('prove-root', seen('said: it works', 'weak'))], []);
    expect(find(weak, 'root-works')).toMatchObject({ verdict: 'holds' });
    expect(find(weak, 'root-works').missing).not.toBeNull();
    const proof = signOff(OF, [done('prove-root', [...seen('granted'), ...seen('read back')])], []);
    expect(find(proof, 'root-works').missing).toBeNull();
  });
  it('says nothing of root that nobody was asked for, whatever was read back', () => {
    const read: Evidence = { what: 'x', strength: 'strong', kind: 'read-back', about: 'root-works' };
    const own: Evidence = { what: 'y', strength: 'strong', kind: 'identity' };
    const passedOver = done('prove-root', [{ what: 'z', strength: 'weak', says: 'unknown' }]);
    const claims = (step: SignOffStep, elsewhere: readonly Evidence[] = []) =>
      signOff({ kind: 'first root', target: null }, [step], [], elsewhere);
    for (const [step, elsewhere] of [
      [passedOver, [read]],
      [done('prove-root', [read, own]), []],
    ] as const) {
      expect(find(claims(step, elsewhere), 'root-works')).toMatchObject({ verdict: 'open' });
      expect(unreached(claims(step, elsewhere)).map(({ id }) => id)).toContain('root-works');
    }
    // whose text it was is no second kind
    const granted = claims(done('prove-root', [...seen('granted'), own]));
    expect(find(granted, 'root-works')).toMatchObject({
      verdict: 'holds',
      missing: expect.any(String) as string,
    });
    expect(find(claims(done('prove-root', [...seen('granted'), read])), 'root-works').missing).toBeNull();
    // nor does it speak for anything else alone
    expect(find(signOff(OF, [done('start', [own])], []), 'starts').verdict).toBe('open');
  });
  it('a claim without evidence, or with one that says no, is not reached; what is to put back is told', () => {
    const waits: SignOffStep = { key: 'start', state: 'waiting', evidence: [], planned: steps0.planned };
    const no = done('start', [{ what: 'x', strength: 'strong', says: 'no' }]);
    const unknown = done('start', [{ what: 'x', strength: 'weak', says: 'unknown' }]);
    for (const one of [waits, no, unknown])
      expect(unreached(signOff(OF, [one], [])).map(({ id }) => id)).toContain('starts');
    expect(unreached(signOff(OF, [done('start')], []))).toEqual([]);
    const put = signOff(OF, [done('start')], ['The modules are off']);
    expect(unreached(put)).toEqual([]);
    expect(find(put, 'put-back').missing).toBe('The modules are off');
  });
  it('tells the three things apart that only the person sees', () => {
    const looked = (['data-there', 'calls'] as const).map((about) => ({
      what: 'works',
      strength: 'weak' as const,
      about,
    }));
    const claims = signOff(OF, [done('look-around', [...looked, ...seen('payments: works', 'weak')])], []);
    expect(find(claims, 'data-there').evidence).toHaveLength(1);
    expect(find(claims, 'payments').verdict).toBe('open');
    // many of them never work beside root
    expect(unreached(claims)).toEqual([]);
  });
  it('asks for what the round was for, whatever steps it has', () => {
    const ids = (kind: GoalId) =>
      unreached(signOff({ kind, target: NEXT }, [done('start')], [])).map(({ id }) => id);
    expect(ids('first root')).toEqual(['goal-build', 'root-works']);
    expect(ids('monthly update')).toEqual(['goal-build', 'root-works']);
    expect(ids('return to stock')).toEqual(['goal-build']);
    expect(ids('downgrade')).toEqual(['goal-build']);
    expect(ids('repair')).toEqual([]);
  });
  it.each<[GoalId, string]>([
    ['first root', 'goal-build starts root-works root-lasts'],
    ['root again', 'goal-build starts root-works root-lasts'],
    ['monthly update', 'goal-build starts root-works root-lasts'],
    ['major upgrade', 'goal-build starts root-works root-lasts'],
    ['downgrade', 'goal-build starts'],
    ['return to stock', 'goal-build starts no-root'],
    ['lock again', 'goal-build starts no-root locked'],
    ['keep a recovery', 'recovery-opens'],
    ['root without unlocking', 'root-works root-lasts'],
    ['prove root', 'root-works'],
    ['repair', 'starts'],
  ])('claims for %s: %s', (kind, ids) => {
    const claims = signOff({ kind, target: null }, [], []).map(({ id }) => id);
    expect([...claims].sort()).toEqual([...ids.split(' '), 'put-back'].sort());
  });
  it('takes the last look at what runs for the build of the round', () => {
    const looks = (...builds: string[]) =>
      find(
        signOff(
          { kind: 'monthly update', target: NEXT },
          builds.map((build) => ({ ...done('start'), planned: { ...steps0.planned, build } })),
          [],
        ),
        'goal-build',
      ).verdict;
    expect(looks(NOW, NEXT)).toBe('holds');
    expect(looks(NEXT, NOW)).toBe('open');
    expect(looks()).toBe('open');
  });
  it('counts root as lasting only when it was asked for after a start from what was written last', () => {
    const lasts = (...order: SignOffStep['key'][]) =>
      find(
        signOff(
          { kind: 'first root', target: null },
          order.map((key) => done(key)),
          [],
        ),
        'root-lasts',
      ).verdict;
    expect(lasts('write-root', 'start', 'prove-root')).toBe('holds');
    expect(lasts('start-once', 'prove-root', 'make-lasting')).toBe('open');
    expect(lasts('start', 'write-root', 'prove-root')).toBe('open');
    expect(lasts('prove-root', 'write-root', 'start')).toBe('open');
    expect(lasts('write-root', 'start')).toBe('open');
  });
  it('says of an open claim what would show it', () => {
    const claims = signOff(
      { kind: 'first root', target: null },
      [done('start-once'), done('prove-root', [])],
      [],
    );
    expect(find(claims, 'root-lasts').missing).toBe(START_ONCE_MORE);
    expect(find(claims, 'root-works').missing).toBe(NO_EVIDENCE);
    const read: Evidence = { what: 'x', strength: 'strong', kind: 'read-back' };
    const again = signOff({ kind: 'first root', target: null }, [done('prove-root', [read])], []);
    expect(find(again, 'root-works').missing).toBe(ASK_FOR_ROOT);
  });
  it('and what was seen after one more restart speaks for its lasting alone', () => {
    const again: Evidence = { what: 'uid 0', strength: 'strong', about: 'root-lasts' };
    const claims = signOff(
      { kind: 'first root', target: null },
      [done('start-once'), done('prove-root', [again])],
      [],
    );
    expect(find(claims, 'root-lasts')).toMatchObject({ verdict: 'holds', missing: null });
    expect(find(claims, 'root-lasts').evidence).toHaveLength(1);
    expect(find(claims, 'root-works').verdict).toBe('open');
  });
  it('what stands too long was left lying: it is no work, and teaches nothing', () => {
    const slow = STEP_KINDS['finish-start'].seconds[1] * STUCK_FACTOR;
    const of = (seconds: number) => ({
      key: 'finish-start' as const,
      startedAt: 1000,
      endedAt: 1000 + seconds * 1000,
    });
    expect([wasPaused(of(slow)), workedSeconds(of(slow))]).toEqual([false, slow]);
    expect([wasPaused(of(slow + 1)), workedSeconds(of(slow + 1))]).toEqual([true, slow]);
    expect(workedSeconds({ key: 'start', startedAt: 1000, endedAt: null })).toBeNull();
    // by hand a quick step may take a quarter of an hour
    const quick = (seconds: number) =>
      wasPaused({ key: 'write-root', startedAt: 0, endedAt: seconds * 1000 });
    expect([quick(900), quick(901)]).toEqual([false, true]);
    expect(workedOn([of(10), of(slow * 9), { key: 'start', startedAt: null, endedAt: null }])).toBe(
      10 + slow,
    );
  });
});

describe('budgets', () => {
  const steps = stepsOf('first root', 'one-image-once', false);
  it('count the slow minutes, half as much again, over the floor', () => {
    expect(batteryBudget(steps, 80)).toMatchObject({ verdict: 'enough' });
    expect(batteryBudget(steps, 31)).toMatchObject({ verdict: 'short' });
    expect(batteryBudget(steps, null)).toMatchObject({ verdict: 'unknown' });
    const { need } = batteryBudget(steps, null).says as { readonly need: number };
    expect(batteryBudget(steps, need).verdict).toBe('enough');
    expect(batteryBudget(steps, need - 1).verdict).toBe('short');
  });
  it('leave out what only waits, and count what writes', () => {
    const long = (key: NewStep['key']): NewStep => ({
      key,
      planned: { ...steps[0]!.planned, mode: 'system', minutes: [60, 60] },
    });
    const need = (...more: NewStep[]) => batteryBudget([...steps, ...more], null).says;
    for (const key of ['back-up', 'guard-off', 'ask-code', 'unlock-switch', 'merge', 'look-around'] as const)
      expect(need(long(key)), key).toEqual(need());
    for (const key of ['write-build', 'sideload', 'start', 'back-up-image'] as const)
      expect(need(long(key)), key).not.toEqual(need());
  });
  it('want room twice over', () => {
    expect(roomBudget(100, 201)).toMatchObject({ verdict: 'enough' });
    expect(roomBudget(100, 200)).toMatchObject({ verdict: 'short' });
    expect(roomBudget(100, null)).toMatchObject({ verdict: 'unknown' });
  });
});

describe('pages', () => {
  const input = {
    title: 'First root',
    handset: 'North | gate',
    model: 'Hill',
    build: 'B.1',
    slot: 'a',
    partition: 'init_boot',
    lane: 'one image',
    madeAt: 'today',
    wayBack: 'open',
    images: [
      {
        what: 'stock image',
        partition: 'init_boot',
        slot: 'a',
        build: 'B',
        file: { name: 'stock.img', sha256: 'a'.repeat(64), sizeBytes: 5 },
      },
    ],
    commands: [{ what: 'Write', command: 'write `it`' }],
    ways: sheetFrom(STAND_IN_WAYS, 'seen done', 'you'),
    writesIn: 'bootloader' as const,
    ownRecovery: null,
    restsAfter: null,
  };
  it('hold files with hashes, the way back and the ladder out of a loop', () => {
    const text = toMarkdown(rescuePage(input));
    for (const part of [
      'a'.repeat(64),
      'Volume down and Power',
      'Asked for a wipe: refuse',
      'slot a',
      'North \\| gate',
      'licensed repairer',
    ])
      expect(text).toContain(part);
  });
  it('are whole as sheet and report, with nothing that breaks a table', () => {
    const step = {
      title: 'T',
      todo: 'do',
      dont: 'not',
      minutes: '1 min',
      ifItEndsHere: 'nothing',
      command: 'c',
    };
    expect(toMarkdown(runSheet(input, [step, step])).match(/^## /gm)).toHaveLength(2);
    const report = toMarkdown(
      roundReport(
        input,
        [{ title: 'a|b', state: 'done', took: '1 s', by: 'link', seen: ['x\ny'] }],
        [{ claim: 'c', seen: [] }],
        [{ check: 'k', reason: 'r' }],
      ),
    );
    const rows = report.split('\n').filter((line) => line.startsWith('|'));
    for (const row of rows) expect(row.replaceAll('\\|', '').split('|').length).toBeGreaterThan(3);
    expect(report).toContain('none');
  });
});

const ROOT = { what: 'root', slot: 'its own' } as const;

describe('a step that writes', () => {
  it('does not compile without gates, or without what is to be seen after it', () => {
    const whole: Deed = {
      writes: ROOT,
      gates: ['battery'],
      expects: [{ see: 'partition', holds: 'its image' }],
      shown: null,
      changes: true,
    };
    // @ts-expect-error no gates
    const ungated: Deed = {
      writes: ROOT,
      gates: [],
      expects: [{ see: 'partition', holds: 'its image' }],
      shown: null,
      changes: true,
    };
    // @ts-expect-error not said how it shows
    const unshown: Deed = {
      writes: ROOT,
      gates: ['battery'],
      expects: [{ see: 'partition', holds: 'its image' }],
      changes: true,
    };
    // @ts-expect-error nothing to be seen
    const unseen: Deed = { writes: ROOT, gates: ['battery'], changes: true };
    expect([whole, ungated, unshown, unseen].map(({ writes }) => writes)).toEqual([ROOT, ROOT, ROOT, ROOT]);
  });
  it('is every one of them', () => {
    for (const [key, deed] of Object.entries(DEEDS)) {
      expect(deed.writes === null, key).toBe(deed.expects === undefined);
      if (deed.writes) expect(deed.gates.length, key).toBeGreaterThan(0);
    }
  });
});

describe('a second handset as host', () => {
  const keys = (context: Parameters<typeof expandPlan>[0], lane: string) =>
    expandPlan(
      context,
      planRound(context).plans.find((plan) => plan.lane.id === lane)!,
    ).map(({ key }) => key);
  const limits = { computer: false, wipeAllowed: true, keepFuse: false, secondHandset: true };
  it('is set up before the handset is left, and has the files before the first write', () => {
    const own = keys(world({ context: { goal: 'first root', limits } }), 'one-image-once');
    expect(own.indexOf('second-host')).toBeLessThan(own.indexOf('bootloader'));
    expect(own.indexOf('carry-over')).toBeLessThan(own.indexOf('write-root'));
    expect(own.indexOf('patch')).toBeLessThan(own.indexOf('carry-over'));
  });
  it('carries nothing over where no image of the vault is sent: nothing could be shown of it', () => {
    const down = keys(
      world({
        locked: true,
        profile: { sideloadsDown: [{ from: SEPTEMBER, to: AUGUST }] },
        context: { goal: 'downgrade', target: AUGUST, fullPackages: [AUGUST], limits },
      }),
      'sideload',
    );
    expect(down).toContain('second-host');
    expect(down).not.toContain('carry-over');
  });
});
