import { describe, expect, it } from 'vitest';
import { world } from '../../../tests/fixtures/plan-world';
import { HIDDEN_FAULT_IDS } from '../words/hidden-faults';
import { putFault } from './hidden-faults';
import { operate } from './operate';
import { start } from './start';
import type { HandsetProfile, HandsetState } from './state';

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
