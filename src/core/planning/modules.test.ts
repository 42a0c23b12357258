import { describe, expect, it } from 'vitest';
import { operate } from '../handset/operate';
import { modulesLoaded } from '../handset/state';
import { OCTOBER, SEPTEMBER, world } from '../../../tests/fixtures/plan-world';
import { stockImage } from './context';
import type { PlanContext } from './context';
import { planRound } from './plan-round';

/* Modules are seen off by a restart before an update, wherever a restart loses nothing. */

const update = (state: Partial<PlanContext['start']> = {}, context: Partial<PlanContext> = {}) =>
  world({
    rooted: true,
    state: { modules: { on: true, ids: ['torch'] }, ...state },
    context: { goal: 'monthly update', target: OCTOBER, modulesOff: ['torch'], ...context },
  });
const steps = (context: PlanContext, lane?: string) =>
  planRound(context)
    .plans.filter((one) => lane === undefined || one.lane.id === lane)
    .map(({ steps: way }) => way.map(({ action }) => action));

describe('modules before an update', () => {
  it('are seen off in every lane, before anything of the new build is there', () => {
    const all = planRound(update()).plans;
    expect(all.length).toBeGreaterThan(3);
    for (const { steps: way } of all) {
      const at = way.findIndex(({ action }) => action === 'modules-seen-off');
      expect(at).toBeGreaterThan(way.findIndex(({ action }) => action === 'modules-off'));
      expect(way[at]!.after).toMatchObject({ running: { build: SEPTEMBER, rooted: true }, update: null });
      expect(way.slice(0, at).every(({ writes }) => !writes)).toBe(true);
    }
  });
  it('are not restarted where an update waits: the restart would take it', () => {
    const waits = update({
      active: 'b',
      builds: { a: SEPTEMBER, b: OCTOBER },
      update: { slot: 'b', build: OCTOBER },
      snapshot: 'waiting',
      images: {
        ...update().start.images,
        ...Object.fromEntries(
          ['init_boot', 'boot', 'vendor_boot', 'recovery'].map((one) => [
            `${one}_b`,
            stockImage(one, OCTOBER),
          ]),
        ),
      },
    });
    const [way] = steps(waits, 'patch-the-waiting-slot');
    expect(way).toContain('modules-off');
    expect(way).not.toContain('modules-seen-off');
  });
  it('are not restarted where root runs from memory: it would be gone', () => {
    const stock = { ...update().start.images, init_boot_a: stockImage('init_boot', SEPTEMBER) };
    const [way] = steps(update({ images: stock }), 'whole-build-patched');
    expect(way).toContain('modules-off');
    expect(way).not.toContain('modules-seen-off');
  });
  it('have no restart where none has to go off', () =>
    expect(steps(update({}, { modulesOff: [] })).flat()).not.toContain('modules-seen-off'));
});

describe('a module that heeds no switch', () => {
  const { start } = update({ modules: { on: true, ids: ['hosts', 'torch'] }, rootRequest: 'granted' });
  const after = (stubbornModules: readonly string[]) => {
    let state = start;
    for (const operation of [
      { do: 'modules', on: false },
      { do: 'restart' },
      { do: 'finish-start' },
    ] as const) {
      const done = operate({ ...update().profile, stubbornModules }, state, operation);
      if (!done.ok) throw new Error(done.reason);
      ({ state } = done);
    }
    return modulesLoaded(state.modules);
  };
  it('is on again after a restart, and only that one', () => expect(after(['torch'])).toEqual(['torch']));
  it('is no concern where there is none', () => expect(after([])).toEqual([]));
});
