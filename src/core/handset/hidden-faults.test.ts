import { describe, expect, it } from 'vitest';
import { world } from '../../../tests/fixtures/plan-world';
import { HIDDEN_FAULT_IDS } from '../words/hidden-faults';
import { putFault } from './hidden-faults';
import { operate } from './operate';
import { start } from './start';
import type { HandsetProfile, HandsetState, Slot } from './state';

const { profile, start: begin } = world();
const running: HandsetState = {
  ...begin,
  mode: 'system',
  running: { slot: begin.active, build: begin.builds[begin.active], rooted: true },
  modules: { on: true, ids: ['torch', 'map'] },
};
const put = (fault: Parameters<typeof putFault>[2], state = running, of: HandsetProfile = profile) => {
  const made = putFault(of, state, fault);
  if (typeof made === 'string') throw new Error(made);
  return made;
};

describe('a fault that hides', () => {
  it('leaves the handset running, whatever it is', () => {
    for (const fault of HIDDEN_FAULT_IDS) {
      const made = putFault(profile, running, fault);
      if (typeof made !== 'string') expect(made.state.mode, fault).toBe('system');
    }
  });
  it.each(['wrong-slot', 'no-tries', 'unopened-data'] as const)('%s keeps it from starting', (fault) => {
    expect(start(profile, running).outcome.result).toBe('started');
    expect(start(profile, put(fault).state).outcome.result).toBe('loops');
  });
  it('spoils bytes of the slot that runs', () => {
    const on = (fault: Parameters<typeof putFault>[2]) => put(fault).spoiled?.partition;
    expect(on('rotted-image')).toBe(`${profile.rootPartition}_${running.active}`);
    expect(on('cut-write')).toMatch(new RegExp(`^(system|boot)_${running.active}$`));
  });
  it('can’t be where there is nothing for it', () => {
    const one = { ...profile, slotCount: 1 as const };
    for (const fault of ['wrong-slot', 'no-tries', 'stuck-update'] as const)
      expect(typeof putFault(one, running, fault), fault).toBe('string');
    expect(typeof putFault(profile, { ...running, modules: { on: true, ids: [] } }, 'bad-module')).toBe(
      'string',
    );
    expect(
      typeof putFault(profile, { ...running, running: { ...running.running!, rooted: false } }, 'bad-module'),
    ).toBe('string');
    expect(typeof putFault({ ...profile, builds: {} }, running, 'unopened-data')).toBe('string');
  });
  it('an app that denies asks nobody, until it is let ask again', () => {
    const denies = put('denying-app', { ...running, rootApp: 'ready' }).state;
    const asked = operate(profile, denies, { do: 'ask-root' });
    expect(asked.ok && asked.state.rootRequest).toBe('denied');
    const again = operate(profile, denies, { do: 'root-app', change: 'ask' });
    expect(again.ok && again.state.appDenies).toBeUndefined();
    const then = again.ok ? operate(profile, again.state, { do: 'ask-root' }) : again;
    expect(then.ok && then.state.rootRequest).toBe('asked');
    expect(operate(profile, running, { do: 'root-app', change: 'ask' }).ok).toBe(false);
    const erased = operate(profile, { ...denies, mode: 'recovery' }, { do: 'wipe', kind: 'factory' });
    expect(erased.ok && erased.state.appDenies).toBeUndefined();
  });
  it('what lies on disk is the other slot’s only where that is stock and of the same build', () => {
    const key = (slot: Slot) => `${profile.rootPartition}_${slot}`;
    const there = running.images[key('a')]!;
    const patched = { ...there, patchedBy: { kit: 'a kit', stockSha256: 'x' } };
    const build = running.builds.a;
    const two = {
      ...running,
      active: 'a' as const,
      builds: { a: build, b: build },
      images: { ...running.images, [key('a')]: patched, [key('b')]: there },
    };
    expect(put('stock-on-disk', two).spoiled).toEqual({ partition: key('a'), how: 'other slot' });
    for (const other of [
      { ...two, builds: { a: build, b: 'another' } },
      { ...two, images: { ...two.images, [key('b')]: patched } },
      { ...two, images: { ...two.images, [key('b')]: { ...there, broken: 'cut' } } },
      { ...two, images: { ...two.images, [key('a')]: there } },
    ])
      expect(typeof putFault(profile, other, 'stock-on-disk')).toBe('string');
    expect(typeof putFault({ ...profile, slotCount: 1 }, two, 'stock-on-disk')).toBe('string');
  });
  it('debugging can go off only where it was on', () => {
    expect(put('debugging-off').state.settings.debugging).toBe(false);
    const off = { ...running, settings: { ...running.settings, debugging: false } };
    expect(typeof putFault(profile, off, 'debugging-off')).toBe('string');
  });
  it('a dead cable carries nothing when it is plugged in again', () => {
    const dead = put('dead-cable').state;
    const again = operate(profile, dead, { do: 'cable', connected: true });
    expect(again.ok && again.state.cable).toBe(false);
    const whole = operate(profile, { ...running, cable: false }, { do: 'cable', connected: true });
    expect(whole.ok && whole.state.cable).toBe(true);
  });
  it('an update that is stuck goes on merging after a start', () => {
    const stuck = put('stuck-update').state;
    expect(stuck).toMatchObject({ snapshot: 'merging', mergeStuck: true });
    const after = start(profile, stuck);
    expect(after.outcome.result).toBe('started');
    expect(after.state.snapshot).toBe('merging');
    expect(after.state.mergeStuck).toBeUndefined();
  });
  it('a module that breaks every build loops it until modules are off', () => {
    const bad = put('bad-module').state;
    const rooted = { ...bad, images: { ...bad.images } };
    const key = `${profile.rootPartition}_${bad.active}`;
    rooted.images[key] = { ...rooted.images[key]!, patchedBy: { kit: 'a kit', stockSha256: 'x' } } as never;
    expect(start(profile, rooted).outcome.result).toBe('loops');
    expect(start(profile, { ...rooted, modules: { ...rooted.modules, off: ['torch'] } }).outcome.result).toBe(
      'started',
    );
  });
});
