import { describe, expect, it } from 'vitest';
import { ADVISED, ASKS_ALL, BY_LADDER, measured } from '../../../tests/fixtures/rescue-cases';
import { world } from '../../../tests/fixtures/plan-world';
import type { PlanContext } from '../planning/context';
import type { CauseId, RepairId, SymptomId } from '../words/rescue';
import { CAUSE_WORDS, CHECK_WORDS, SYMPTOM_WORDS } from '../words/rescue';
import { adviceOf } from './advice';
import type { Seen } from './belief';
import { answersOf, believe, nextChecks } from './belief';
import { CAUSE_IDS, CAUSES, CHECK_IDS, CHECKS } from './causes';
import type { RescueRecord } from './record';
import { factorsOf, NO_RECORD } from './record';
import { REPAIR_IDS, REPAIRS, repairsFor, withFault, worksOn } from './repairs';

/* What is believed, what is asked, and what is done: the tables, the arithmetic, the machine. */

const seen = (...symptoms: readonly SymptomId[]): Seen => ({ symptoms, answers: [] });
const chances = (record: Partial<RescueRecord>, what: Seen) =>
  new Map(believe({ ...NO_RECORD, ...record }, what).map(({ cause, chance }) => [cause, chance]));
const repairing = (more: Parameters<typeof world>[0] = {}): PlanContext =>
  world({ rooted: true, ...more, context: { goal: 'repair', ...more.context } });

describe('the tables', () => {
  it('have chances that are some, and answers that come to one', () => {
    for (const cause of CAUSE_IDS) {
      expect(CAUSES[cause].prior, cause).toBeGreaterThan(0);
      for (const chance of Object.values(CAUSES[cause].shows)) {
        expect(chance).toBeGreaterThan(0);
        expect(chance).toBeLessThan(1);
      }
    }
    for (const check of CHECK_IDS) {
      const { minutes: _minutes, about: _about, ...says } = CHECKS[check];
      for (const [cause, answers] of Object.entries(says)) {
        const sum = Object.values(answers).reduce((one, other) => one + other, 0);
        expect(sum, `${check} ${cause}`).toBeCloseTo(1, 6);
        expect(Object.keys(answers).sort()).toEqual(Object.keys(CHECK_WORDS[check].answers).sort());
      }
    }
  });
  it('leave no symptom without a cause, and no cause without a symptom, a name and something to do', () => {
    for (const symptom of Object.keys(SYMPTOM_WORDS) as SymptomId[])
      expect(
        CAUSE_IDS.some((cause) => (CAUSES[cause].shows[symptom] ?? 0) >= 0.3),
        symptom,
      ).toBe(true);
    expect([...CAUSE_IDS].sort()).toEqual(Object.keys(CAUSE_WORDS).sort());
    const works = worksOn(repairing({ profile: { restsModulesAfter: 3 } }), CAUSE_IDS);
    for (const cause of CAUSE_IDS.filter((one) => one !== 'half-build' && one !== 'snapshot'))
      expect(
        REPAIR_IDS.some((repair) => works[repair].includes(cause)),
        cause,
      ).toBe(true);
  });
});

describe('what is believed', () => {
  it('is the prior times what was seen, over all of them', () => {
    const all = believe(NO_RECORD, seen('update-refused'));
    expect(all.reduce((sum, { chance }) => sum + chance, 0)).toBeCloseTo(1, 9);
    const weight = (cause: CauseId) =>
      all.find((one) => one.cause === cause)!.because.reduce((product, { times }) => product * times, 1);
    expect(weight('not-stock')).toBeCloseTo(4 * 0.95, 9);
    expect(all[0]!.cause).toBe('not-stock');
    const [first, second] = all as [(typeof all)[0], (typeof all)[0]];
    expect(first.chance / second.chance).toBeCloseTo(weight(first.cause) / weight(second.cause), 9);
  });
  it.each<[string, Partial<RescueRecord>, SymptomId, CauseId]>([
    [
      'a write that was cut short',
      { writes: [{ what: 'root', proved: false, cutShort: true }] },
      'loops',
      'root-image',
    ],
    ['a module that breaks builds', { moduleChance: 0.5 }, 'loops', 'module'],
    ['an older build under newer data', { wentDown: true }, 'in-recovery', 'data'],
    ['a slot that was selected', { slotSelected: true, slotCount: 2 }, 'in-bootloader', 'wrong-slot'],
    ['a line that was lost', { linesLost: 3 }, 'not-listed', 'cable'],
    ['an empty battery', { batteryPercent: 3 }, 'dead', 'battery'],
    ['the same as the last time', { before: ['driver'] }, 'not-listed', 'driver'],
    ['a restart too early', { earlyRestart: true }, 'no-root', 'stock-on-disk'],
  ])('%s makes its cause likelier', (_what, record, symptom, cause) => {
    const [plain, told] = [chances({}, seen(symptom)), chances(record, seen(symptom))];
    expect(told.get(cause)!).toBeGreaterThan(plain.get(cause)!);
    expect([...told].sort((a, b) => b[1] - a[1])[0]![0]).toBe(cause);
  });
  it('goes on with each answer, and stays as it is where the person can’t tell', () => {
    const before = chances({}, seen('loops'));
    const with_ = (answer: string | null) =>
      chances({}, { symptoms: ['loops'], answers: [{ check: 'rests-modules', answer }] });
    expect(with_('starts').get('module')!).toBeGreaterThan(0.8);
    expect(with_('loops').get('module')!).toBeLessThan(before.get('module')!);
    expect(with_(null)).toEqual(before);
  });
  it('learns from closed cases, by their count', () => {
    const of = (count: number) =>
      believe(NO_RECORD, seen('loops'), { kit: count }).find(({ cause }) => cause === 'kit')!.chance;
    expect(of(1)).toBeGreaterThan(of(0));
    expect(of(10)).toBeGreaterThan(of(1));
  });
  it('says why of everything that it multiplies', () => {
    for (const { why, times } of believe(NO_RECORD, seen('loops', 'logo')).flatMap(
      ({ because }) => because,
    )) {
      expect(why).not.toBe('');
      expect(times).toBeGreaterThan(0);
    }
    expect(factorsOf({ ...NO_RECORD, slotCount: 1 }).map(({ cause }) => cause)).toEqual(
      expect.arrayContaining(['wrong-slot', 'tries']),
    );
  });
});

describe('what is asked next', () => {
  it('tells most a minute, is about what shows, and is asked once', () => {
    const first = nextChecks(believe(NO_RECORD, seen('loops')), seen('loops'));
    const perMinute = first.map(({ bits, minutes }) => bits / minutes);
    expect(perMinute).toEqual([...perMinute].sort((a, b) => b - a));
    for (const { check } of first) expect(CHECKS[check].about ?? ['loops']).toContain('loops');
    const asked: Seen = { symptoms: ['loops'], answers: [{ check: first[0]!.check, answer: null }] };
    expect(nextChecks(believe(NO_RECORD, asked), asked).map(({ check }) => check)).not.toContain(
      first[0]!.check,
    );
  });
  it('is nothing where one cause is sure', () => {
    const what: Seen = { symptoms: ['zip-unseen'], answers: [{ check: 'recovery-reads', answer: 'yes' }] };
    expect(nextChecks(believe({ ...NO_RECORD, recoveryOpens: true }, what), what)).toEqual([]);
  });
  it('knows every answer of every check', () => {
    for (const check of CHECK_IDS) expect(answersOf(check).length).toBeGreaterThan(1);
  });
});

describe('repairs on the machine', () => {
  const two = repairing({
    profile: { restsModulesAfter: 3 },
    state: { modules: { on: true, ids: ['torch'] } },
  });
  const works = worksOn(two, CAUSE_IDS);
  it.each<[CauseId, readonly RepairId[], readonly RepairId[]]>([
    ['module', ['kit-rests', 'stock-image'], ['wait', 'select-again', 'vendor-boot', 'replug']],
    [
      'root-image',
      ['stock-image', 'root-again', 'whole-build'],
      ['wait', 'kit-rests', 'vendor-boot', 'erase'],
    ],
    ['vendor-boot', ['vendor-boot', 'whole-build'], ['stock-image', 'erase']],
    ['kit', ['stock-image', 'other-kit'], ['root-again', 'wait']],
    ['tries', ['select-again'], ['wait']],
    ['data', ['newer-build', 'erase'], ['whole-build', 'stock-image', 'select-again']],
  ])('%s', (cause, mend, not) => {
    for (const repair of mend) expect(works[repair], repair).toContain(cause);
    for (const repair of not) expect(works[repair], repair).not.toContain(cause);
  });
  it('a handset with one slot has no fault of slots, and none without a newer build takes one', () => {
    const one = repairing({ profile: { slotCount: 1, builds: {} } });
    expect([withFault(one, 'tries'), withFault(one, 'wrong-slot')]).toEqual([null, null]);
    expect(worksOn(one, ['data'])['newer-build']).toEqual([]);
  });
  it('nothing is written where the bootloader writes nothing and there is no download mode', () => {
    const shut = worksOn(repairing({ profile: { bootloaderWrites: false } }), CAUSE_IDS);
    for (const repair of ['stock-image', 'vendor-boot', 'whole-build'] as const)
      expect(shut[repair].filter((cause) => !REPAIRS[repair].mends.includes(cause))).toEqual([]);
  });
});

describe('what is advised', () => {
  const works = worksOn(repairing(), CAUSE_IDS);
  it('erases only where nothing else is left', () => {
    const what = seen('asks-password', 'in-recovery');
    const believed = believe({ ...NO_RECORD, wentDown: true }, what);
    const first = repairsFor(believed, works, []);
    expect(first.every(({ wipes }) => !wipes)).toBe(true);
    const keeping = REPAIR_IDS.filter((repair) => !REPAIRS[repair].wipes);
    expect(repairsFor(believed, works, keeping).map(({ repair }) => repair)).toEqual(['erase']);
    expect(repairsFor(believed, works, keeping.slice(1)).every(({ wipes }) => !wipes)).toBe(true);
  });
  it('offers nothing that is barred or was done, and stops where nothing is left', () => {
    const believed = believe(NO_RECORD, seen('update-refused'));
    const [first] = repairsFor(believed, works, []);
    expect(repairsFor(believed, works, [first!.repair]).map(({ repair }) => repair)).not.toContain(
      first!.repair,
    );
    expect(repairsFor(believed, works, [], [first!.repair]).map(({ repair }) => repair)).not.toContain(
      first!.repair,
    );
    const answers = CHECK_IDS.map((check) => ({ check, answer: null }));
    const all: Seen = { symptoms: ['update-refused'], answers };
    expect(adviceOf(believe(NO_RECORD, all), works, all, REPAIR_IDS).next).toBe('stop');
  });
  it('goes to a repairer before anything is erased where only they can help', () => {
    const what: Seen = {
      symptoms: ['dead', 'not-listed'],
      answers: [
        { check: 'charge-first', answer: 'dark' },
        { check: 'opens-bootloader', answer: 'no' },
        { check: 'other-cable', answer: 'no' },
        { check: 'other-mode', answer: 'no' },
        { check: 'opens-recovery', answer: 'no' },
      ],
    };
    const record = {
      ...NO_RECORD,
      batteryPercent: 80,
      writes: [{ what: 'bootloader', proved: false, cutShort: true }],
    } as const;
    expect(adviceOf(believe(record, what), works, what, []).next).toBe('stop');
  });
});

describe('over broken handsets by seed', () => {
  it.each([
    ['as often as the priors say', false],
    ['every cause as often as the next', true],
  ])(
    '%s: what can be mended comes back, nothing is erased in vain, in less time than by a ladder',
    (_how, evenly) => {
      const [advised, ladder, all] = [ADVISED, BY_LADDER, ASKS_ALL].map((policy) =>
        measured(300, policy, evenly, 7),
      );
      expect(advised!.back).toBeGreaterThan(0.99);
      expect(advised!.inVain).toBe(0);
      expect(advised!.minutes).toBeLessThan(ladder!.minutes / 3);
      expect(advised!.minutes).toBeLessThan(all!.minutes);
      expect(advised!.checks).toBeLessThan(all!.checks);
      expect(advised!.restarts).toBeLessThanOrEqual(ladder!.restarts);
    },
  );
});
