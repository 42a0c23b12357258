import { describe, expect, it } from 'vitest';
import { world } from '../../../tests/fixtures/plan-world';
import type { SurpriseId } from '../words/surprises';
import type { HandsetState } from './state';
import { comeOver, NEARLY_EMPTY } from './surprises';

const { profile, start } = world();
const OLD = start.builds[start.active];
const NEW = 'club/hill_eu/hill:17/HC1.261005.009/2:user/release-keys';
const running: HandsetState = {
  ...start,
  mode: 'system',
  running: { slot: start.active, build: OLD, rooted: true },
  modules: { on: true, ids: ['torch', 'map'] },
};
const over = (id: SurpriseId, before: HandsetState, after: HandsetState, was: string | null = OLD) =>
  comeOver(profile, before, after, [id], was);
const waiting: HandsetState = { ...running, update: { slot: 'b', build: NEW }, snapshot: 'waiting' };
const starting: HandsetState = { ...waiting, mode: 'starting', running: null };
const started: HandsetState = { ...running, running: { slot: 'b', build: NEW, rooted: true } };
const bootloader: HandsetState = {
  ...running,
  mode: 'bootloader',
  running: null,
  builds: { a: OLD, b: OLD },
};

describe('a surprise', () => {
  it.each([
    ['low-battery', running, waiting, { batteryPercent: NEARLY_EMPTY }],
    ['bad-module', running, waiting, { modules: { on: true, ids: ['torch', 'map'], breaks: ['torch'] } }],
    ['debugging-off', starting, started, { settings: { ...running.settings, debugging: false } }],
    ['denying-app', starting, started, { appDenies: true }],
    ['stuck-merge', starting, { ...started, snapshot: 'merging' }, { mergeStuck: true }],
    ['slot-changed', running, bootloader, { active: bootloader.active === 'a' ? 'b' : 'a' }],
  ] as const)('%s comes at its moment, once', (id, before, after, change) => {
    const found = over(id, before, after);
    expect(found).toEqual({ state: { ...after, ...change }, came: [id] });
    expect(comeOver(profile, before, after, [], OLD)).toEqual({ state: after, came: [] });
  });
  it.each([
    ['low-battery', waiting, waiting, OLD],
    ['bad-module', running, { ...waiting, modules: { on: false, ids: ['torch'] } }, OLD],
    // the build that ran before is no new one, and where nobody knows that none is
    ['debugging-off', starting, running, OLD],
    ['debugging-off', starting, started, null],
    ['denying-app', starting, { ...started, running: { ...started.running!, rooted: false } }, OLD],
    ['stuck-merge', { ...started, snapshot: 'merging' }, { ...started, snapshot: 'merging' }, OLD],
    ['slot-changed', bootloader, bootloader, OLD],
    ['slot-changed', running, { ...bootloader, builds: { a: OLD, b: NEW } }, OLD],
    ['slot-changed', running, { ...bootloader, snapshot: 'waiting' }, OLD],
  ] as const)('%s does not come at another', (id, before, after, was) => {
    expect(over(id, before, after, was)).toEqual({ state: after, came: [] });
  });
  it('on a handset with one slot is never about the other', () => {
    const one = comeOver({ slotCount: 1 }, running, bootloader, ['slot-changed'], OLD);
    expect(one.came).toEqual([]);
  });
  it('a slot that holds no system is not selected', () => {
    const other = bootloader.active === 'a' ? 'b' : 'a';
    for (const change of [{ bootable: false }, { gone: true }]) {
      const slots = { ...bootloader.slots, [other]: { ...bootloader.slots[other], ...change } };
      expect(over('slot-changed', running, { ...bootloader, slots }).came).toEqual([]);
    }
  });
  it('several come together', () => {
    const { state, came } = comeOver(
      profile,
      running,
      waiting,
      ['bad-module', 'low-battery', 'cable-out'],
      OLD,
    );
    expect(came).toEqual(['bad-module', 'low-battery']);
    expect(state).toMatchObject({ batteryPercent: NEARLY_EMPTY, modules: { breaks: ['torch'] } });
  });
});
