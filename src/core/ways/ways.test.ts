import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { STAND_IN_WAYS } from '../handset/own-ways';
import { STEP_KINDS } from '../steps/step-table';
import { stepAbout } from '../steps/step-about';
import type { ClassFacts } from './classes';
import { classOf } from './classes';
import { readWay, WAY_LIMITS } from './read-way';
import type { SaidWay } from './sheet';
import { sheetFrom, sheetOf, watched } from './sheet';
import { choose, hold, isKnown, keyCard } from './speak';
import { valueWords } from './value-words';
import type { Ways, WayId } from './way-kinds';
import { NO_WAYS, WAY_IDS } from './way-kinds';

const NOTHING: ClassFacts = {
  slotCount: null,
  hasInitBoot: null,
  hasDownload: null,
  bootloaderWrites: null,
  neverUnlocks: false,
};

describe('the class of a handset', () => {
  it.each<[string, Partial<ClassFacts>, string | null]>([
    ['nothing was read', {}, null],
    ['two slots, and nobody knows where root sits', { slotCount: 2 }, null],
    ['two slots with init_boot', { slotCount: 2, hasInitBoot: true }, 'two-slots-init-boot'],
    ['two slots without', { slotCount: 2, hasInitBoot: false }, 'two-slots-boot'],
    ['one slot, and nothing more', { slotCount: 1 }, null],
    ['one slot with download mode, its bootloader never tried', { slotCount: 1, hasDownload: true }, null],
    [
      'one slot with download mode and a bootloader that writes nothing',
      { slotCount: 1, hasDownload: true, bootloaderWrites: false },
      'one-slot-download',
    ],
    [
      'one slot with both',
      { slotCount: 1, hasDownload: true, bootloaderWrites: true },
      'one-slot-bootloader',
    ],
    ['one slot without download mode', { slotCount: 1, hasDownload: false }, 'one-slot-bootloader'],
    [
      'never unlocked, whatever else it has',
      { slotCount: 2, hasInitBoot: true, neverUnlocks: true },
      'locked-for-good',
    ],
  ])('%s', (_what, facts, is) => expect(classOf({ ...NOTHING, ...facts })).toBe(is));
});

const said = (way: WayId, value: unknown, change: Partial<SaidWay> = {}): SaidWay => ({
  way,
  value: readWay(way, value),
  sureness: 'seen done',
  source: 'you',
  at: 1,
  ...change,
});

describe('a sheet', () => {
  it('takes the surer, and of two as sure the newer', () => {
    const line = (...all: SaidWay[]) => sheetOf(all, null)('line-recovery')?.value;
    const [seen, heard, later] = [
      said('line-recovery', 'Seen'),
      said('line-recovery', 'Heard', { sureness: 'only said', at: 9 }),
      said('line-recovery', 'Later', { at: 2 }),
    ];
    for (const all of [
      [seen, heard],
      [heard, seen],
    ])
      expect(line(...all)).toBe('Seen');
    for (const all of [
      [seen, later],
      [later, seen],
    ])
      expect(line(...all)).toBe('Later');
  });
  it('guesses by its class only what nobody said', () => {
    const sheet = sheetOf([said('keys-bootloader', { keys: ['power', 'up'], seconds: 5 })], 'two-slots-boot');
    expect(sheet('keys-bootloader')).toMatchObject({ sureness: 'seen done', value: { seconds: 5 } });
    expect(sheet('keys-recovery')).toMatchObject({ sureness: 'guessed', at: null });
    expect(sheet('line-recovery')).toBeNull();
    expect(sheetOf([], null)('keys-recovery')).toBeNull();
  });
  it('tells which of it was asked for', () => {
    const { ways, asked } = watched(NO_WAYS);
    ways('line-start');
    ways('keys-off');
    expect(asked()).toEqual(['keys-off', 'line-start']);
  });
});

describe('a way from outside', () => {
  it.each<[WayId, unknown, unknown]>([
    [
      'keys-off',
      { keys: ['down', 'power'], seconds: 2, cable: false, more: 1 },
      { keys: ['power', 'down'], seconds: 2 },
    ],
    [
      'keys-download',
      { keys: ['home'], seconds: 0.5, cable: true },
      { keys: ['home'], seconds: 0.5, cable: true },
    ],
    [
      'keys-off',
      { keys: ['power'], seconds: WAY_LIMITS.seconds },
      { keys: ['power'], seconds: WAY_LIMITS.seconds },
    ],
    ['line-start', `  ${'x'.repeat(WAY_LIMITS.text)} `, 'x'.repeat(WAY_LIMITS.text)],
    ['tool-done', ['It is done.'], ['It is done.']],
    ['fuse-reacts', 'unlocking', 'unlocking'],
  ])('%s is read', (id, value, is) => expect(readWay(id, value)).toEqual(is));
  it.each<[WayId, unknown]>([
    ['keys-off', null],
    ['keys-off', { keys: [], seconds: 2 }],
    ['keys-off', { keys: ['power', 'power'], seconds: 2 }],
    ['keys-off', { keys: ['power', 'camera'], seconds: 2 }],
    ['keys-off', { keys: ['power'], seconds: 0 }],
    ['keys-off', { keys: ['power'], seconds: WAY_LIMITS.seconds + 1 }],
    ['keys-off', { keys: ['power'], seconds: Number.NaN }],
    ['line-start', ' '],
    ['line-start', 'x'.repeat(WAY_LIMITS.text + 1)],
    ['line-start', 'two\nlines'],
    ['line-start', 'turned\u202eround'],
    ['tool-done', []],
    ['tool-done', Array.from({ length: WAY_LIMITS.lines + 1 }, () => 'x')],
    ['tool-done', ['']],
    ['fuse-reacts', 'the moon'],
    ['menu-moves', ['keys']],
  ])('%s is refused: %j', async (id, value) =>
    expect(await codeOf(() => readWay(id, value))).toBe('bad-field'),
  );
});

describe('in sentences', () => {
  const keys = { 'keys-bootloader': { keys: ['power', 'home'], seconds: 1 } } as const;
  it('say keys and lines as a fact only where somebody saw or said them', () => {
    expect(hold(sheetFrom(keys, 'only said', 'a page'), 'keys-bootloader')).toBe(
      'hold Home and Power for 1 second',
    );
    for (const ways of [NO_WAYS, sheetFrom({ ...keys, 'line-start': 'Go' }, 'guessed', 'class')]) {
      expect(hold(ways, 'keys-bootloader')).not.toMatch(/Home|Power/);
      expect(choose(ways, 'line-start')).not.toMatch(/Go|“/);
    }
  });
  it('show guessed keys on the card as a guess, and none where there is not even one', () => {
    const card = (ways: Ways) => keyCard(ways, 'keys-bootloader', { shows: 'a screen' });
    expect(card(NO_WAYS)).toBeNull();
    expect(card(sheetFrom(keys, 'guessed', 'class'))).toMatchObject({ guess: true, keys: ['Home', 'Power'] });
    expect(card(sheetFrom(keys, 'seen done', 'you'))).toMatchObject({ guess: false });
  });
  it('warn of the nearest other keys that somebody saw', () => {
    const wrong = (recovery: 'seen done' | 'guessed') => {
      const known = sheetFrom(STAND_IN_WAYS, 'seen done', 'you');
      const ways: Ways = (id) => {
        const way = known(id);
        return id === 'keys-recovery' && way ? { ...way, sureness: recovery } : way;
      };
      return keyCard(ways, 'keys-bootloader', { shows: 'a screen' })!.wrong;
    };
    expect(wrong('seen done')).toContain('recovery');
    expect(wrong('guessed')).not.toContain('recovery');
  });
  it('have a word for every value', () => {
    const sheet = sheetFrom(STAND_IN_WAYS, 'seen done', 'you');
    for (const id of WAY_IDS) {
      const way = sheet(id);
      if (way) expect(valueWords(id, way.value), id).not.toBe('');
    }
  });
});

/* No step names a key or a line of a menu that nobody has seen: texts come from the sheet alone. */
describe('the texts of all steps', () => {
  const KEYS =
    /Volume (up|down)|[Hh]old Power|Power and|“(Recovery|Start the system|Erase|Format|Unlock|Lock|Package)/;
  const about = (ways: Ways) => ({
    ...stepAbout(
      'Hut',
      { rootPartition: 'boot', recoveryHome: 'recovery', slotCount: 1, unlockPath: 'key chord', ways },
      null,
      null,
      { slot: 'a', build: 'maker/hut/hut:14/A.1/1:user/release-keys' },
    ),
  });
  const said = (ways: Ways) =>
    Object.entries(STEP_KINDS).map(([key, kind]): [string, string] => [
      key,
      JSON.stringify([kind.text(about(ways)), kind.prompts?.(about(ways)) ?? []]),
    ]);
  it('name none where the sheet is empty, or only guesses', () => {
    for (const ways of [NO_WAYS, sheetFrom(STAND_IN_WAYS, 'guessed', 'class')])
      for (const [key, text] of said(ways)) expect(text, key).not.toMatch(KEYS);
  });
  it('take them from the sheet where somebody saw them', () => {
    const seen = said(sheetFrom(STAND_IN_WAYS, 'seen done', 'you'));
    expect(seen.filter(([, text]) => KEYS.test(text)).length).toBeGreaterThan(8);
  });
  it('ask for what they say: a sheet that knows nothing is told which lines are missing', () => {
    const { ways, asked } = watched(NO_WAYS);
    STEP_KINDS.bootloader.text(about(ways));
    expect(asked()).toContain('keys-bootloader');
    expect(asked().some((id) => isKnown(NO_WAYS(id)))).toBe(false);
  });
});
