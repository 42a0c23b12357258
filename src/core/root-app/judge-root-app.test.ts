import { describe, expect, it } from 'vitest';
import type { CoreKit, RootApp } from './judge-root-app';
import { judgeRootApp } from './judge-root-app';

const KIT: CoreKit = { name: 'Burrow 7.3', versionCode: 703, channel: 'stable', leastApp: 700 };
const APP: RootApp = { versionCode: 703, channel: 'stable', hidden: false, pinned: true };
const told = (app: Partial<RootApp>, kit: CoreKit | null = KIT) => {
  const { fits, findings } = judgeRootApp({ ...APP, ...app }, kit);
  return [fits, findings.map(({ code }) => code).join(' ')];
};

describe('the root app and the kit that runs', () => {
  it.each([
    ['of the same version', {}, true, 'fits'],
    ['of the least version', { versionCode: 700 }, true, 'fits'],
    ['one below the least', { versionCode: 699 }, false, 'too-old'],
    ['newer than what runs', { versionCode: 704 }, true, 'newer'],
    ['hidden', { hidden: true }, false, 'hidden fits'],
    ['nobody knows whether hidden', { hidden: null }, null, 'fits'],
    ['its version never read', { versionCode: null }, null, 'unread'],
    ['hidden, its version never read', { hidden: true, versionCode: null }, false, 'hidden unread'],
    ['of another channel', { channel: 'preview' }, true, 'fits other-channel'],
    ['of a channel that nobody read', { channel: null }, true, 'fits'],
    ['offering updates of itself', { pinned: false }, true, 'fits unpinned'],
    ['nobody knows whether it offers any', { pinned: null }, true, 'fits'],
  ] as const)('%s', (_what, app, fits, codes) => expect(told(app)).toEqual([fits, codes]));
  it('a kit that states no least version takes an older app', () =>
    expect(told({ versionCode: 1 }, { ...KIT, leastApp: null })).toEqual([true, 'fits']));
  it('without a known kit nothing of the pair is said', () => expect(told({}, null)).toEqual([null, '']));
});
