import { describe, expect, it } from 'vitest';
import { regionChoice, regionFound, setHistory, writtenParts } from './region-part';
import type { SetHistory, SetPart } from './set-manifest';
import type { SetRole } from './set-roles';

/* Which region part of a firmware set goes along, and whether what is kept still fits. */

const INSTALLED = 'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys';
const part = (role: SetRole, file = `${role}.tar`): SetPart => ({
  file,
  role,
  build: null,
  evidence: [],
  checksum: 'ok',
  members: [],
});
const set = (...roles: SetRole[]) => ({ parts: roles.map((role) => part(role)) });
const SAME: SetHistory = { sameRegion: true, sameLine: true };

describe('region and build line', () => {
  it.each([
    ['another month', INSTALLED.replace('260905', '261005'), SAME],
    ['another variant', INSTALLED.replace('hill_eu', 'hill_us'), { sameRegion: false, sameLine: true }],
    ['another release', INSTALLED.replace(':16/', ':17/'), { sameRegion: true, sameLine: false }],
    ['what is no build', 'nothing', null],
    ['a set that names none', null, null],
  ])('against %s', (_what, build, expected) => expect(setHistory(INSTALLED, build)).toEqual(expected));
  it('is not known where the installed build is not', () => expect(setHistory(null, INSTALLED)).toBeNull());
});

describe('the region part before a step', () => {
  const found = (wipes: boolean, history: SetHistory, ...roles: SetRole[]) => {
    const [holds, says] = regionFound(set('bootloader', 'system', ...roles), wipes, history);
    return [holds, says.code];
  };
  it.each([
    [false, SAME, ['region-keep'], true, 'region-part'],
    [false, SAME, [], true, 'no-region-part'],
    [false, SAME, ['region-keep', 'region-wipe'], false, 'region-both'],
    [false, SAME, ['region-wipe'], false, 'region-other'],
    [false, null, ['region-keep'], null, 'region-part'],
    [false, { sameRegion: false, sameLine: true }, ['region-keep'], false, 'region-moves'],
    [false, { sameRegion: true, sameLine: false }, ['region-keep'], false, 'region-moves'],
    [true, SAME, ['region-wipe'], true, 'region-part'],
    [true, null, ['region-wipe'], true, 'region-part'],
    [true, { sameRegion: false, sameLine: false }, ['region-wipe'], true, 'region-part'],
    [true, SAME, ['region-keep'], false, 'region-other'],
    [true, SAME, ['region-keep', 'region-wipe'], false, 'region-both'],
  ] as const)('that wipes: %s, %j, with %j: %s', (wipes, history, roles, holds, code) =>
    expect(found(wipes, history, ...roles)).toEqual([holds, code]),
  );
  it('is nothing to choose where no set of parts was opened', () =>
    expect(regionFound(undefined, false, SAME)[0]).toBe(true));
});

describe('what is advised', () => {
  it.each([
    [SAME, [true, false]],
    [{ sameRegion: false, sameLine: true }, [false, true]],
    [null, [false, false]],
  ] as const)('for %j', (history, advised) =>
    expect(regionChoice(set('region-keep', 'region-wipe').parts, history).map((one) => one.advised)).toEqual(
      advised,
    ),
  );
});

it('parts go in the order in which a tool takes them, and data never', () =>
  expect(
    writtenParts(set('data', 'region-keep', 'modem', 'system', 'unknown', 'bootloader')).map(
      ({ role }) => role,
    ),
  ).toEqual(['bootloader', 'system', 'modem', 'region-keep', 'unknown']));
