import { describe, expect, it } from 'vitest';
import { operate } from '../handset/operate';
import type { HandsetProfile } from '../handset/state';
import { AUGUST, OCTOBER, SEPTEMBER, world } from '../../../tests/fixtures/plan-world';
import { patchedImage, stockImage } from './context';
import type { PlanContext } from './context';
import { planRound } from './plan-round';

/* A bootloader that takes the maker's own images only, and an older one that is put in for a while. */

const LANE = 'older-bootloader-and-back';
const slate: Partial<HandsetProfile> = {
  slotCount: 1,
  rootPartition: 'boot',
  recoveryHome: 'recovery',
  hasUserspace: false,
  mergesUpdates: false,
  partitionBytes: { boot: 9, recovery: 9, bootloader: 9, system: 9, vbmeta: 9 },
};
const shut = (profile: Partial<HandsetProfile> = {}, context: Partial<PlanContext> = {}) =>
  world({
    profile: { ...slate, looseBuilds: [AUGUST], ...profile },
    context: {
      goal: 'first root',
      recovery: { name: 'Lifeboat', opensUpTo: 99 },
      looseBuild: AUGUST,
      ...context,
    },
  });
const plan = (context: PlanContext) => planRound(context).plans.find(({ lane }) => lane.id === LANE);
const steps = (context: PlanContext) => plan(context)?.steps.map(({ action }) => action) ?? null;

describe('a bootloader that shuts out what is not the maker’s', () => {
  const at = { ...shut().start, mode: 'bootloader' as const, running: null };
  const { profile } = shut();
  const write = (build: string, image = patchedImage({ profile, kit: 'k' }, SEPTEMBER)) => {
    const there = { ...at, images: { ...at.images, bootloader_a: stockImage('bootloader', build) } };
    const done = operate(profile, there, { do: 'write', partition: 'boot_a', image });
    return done.ok ? 'written' : done.reason;
  };
  it.each([
    ['the installed one', SEPTEMBER, /maker’s own images only/],
    ['a newer one', OCTOBER, /maker’s own images only/],
    ['the older one', AUGUST, /written/],
  ])('%s and a patched image', (_what, build, says) => expect(write(build)).toMatch(says));
  it('takes the maker’s own whichever it is', () =>
    expect(write(SEPTEMBER, stockImage('boot', SEPTEMBER))).toBe('written'));
  it('shuts nothing out where nobody named one that does not', () => {
    const open = operate({ ...profile, looseBuilds: [] }, at, {
      do: 'write',
      partition: 'boot_a',
      image: patchedImage({ profile, kit: 'k' }, SEPTEMBER),
    });
    expect(open.ok).toBe(true);
  });
});

describe('an older bootloader for a while', () => {
  it('goes in before the recovery, and the own one is back before the start', () => {
    const way = steps(shut())!;
    const order = [
      'bootloader-down',
      'write-recovery',
      'recovery',
      'root-zip',
      'bootloader-back',
      'start',
    ] as const;
    const places = order.map((key) => way.indexOf(key));
    expect(places.every((place) => place >= 0)).toBe(true);
    expect([...places].sort((a, b) => a - b)).toEqual(places);
    expect(way.indexOf('take-bootloader')).toBeLessThan(places[0]!);
  });
  it('is the only way that writes anything', () =>
    expect(planRound(shut()).plans.map(({ lane }) => lane.id)).toEqual([LANE]));
  it.each([
    ['nobody noted that it shuts anything out', shut({ looseBuilds: [] }), /Nobody has noted/],
    ['no build of it fits', shut({}, { looseBuild: undefined }), /No older build is known/],
    ['the installed one is among them', shut({ looseBuilds: [SEPTEMBER, AUGUST] }), /./],
  ])('is no way where %s', (_what, context, reason) => {
    expect(steps(context)).toBeNull();
    expect(planRound(context).others.find(({ lane }) => lane.id === LANE)?.reason ?? 'not offered').toMatch(
      reason,
    );
  });
});
