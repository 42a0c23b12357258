import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { runVerb } from '@/cli/run-verb';
import { FINGERPRINT } from '../fixtures/images';
import { OTHER_MONTH } from '../fixtures/stand-in-world';

let dir: string;
beforeEach(async () => {
  dir = await mkdtemp(join(tmpdir(), 'eterno-plan-'));
});
afterEach(() => rm(dir, { recursive: true, force: true }));

const STATE = {
  goal: 'first root',
  handset: {
    rootPartition: 'init_boot',
    slotCount: 2,
    recoveryHome: 'vendor_boot',
    partitions: ['init_boot', 'boot', 'vendor_boot'],
    sdk: 36,
  },
  state: { locked: false, builds: { a: FINGERPRINT } },
  kit: 'burrow 7.3',
  fullPackages: [FINGERPRINT],
};
async function plan(value: unknown) {
  const path = join(dir, 'state.json');
  await writeFile(path, typeof value === 'string' ? value : JSON.stringify(value));
  return runVerb(['plan', path], { signal: new AbortController().signal });
}
interface Out {
  readonly pick: string;
  readonly plans: readonly {
    readonly lane: { readonly id: string };
    readonly steps: readonly {
      readonly action: string;
      readonly does: readonly string[];
      readonly ifPowerIsLost: object;
      readonly ifItEndsHere: { readonly sentence: string; readonly starts: boolean };
    }[];
  }[];
  readonly others: readonly {
    readonly lane: { readonly id: string };
    readonly verdict: string;
    readonly reason: string;
  }[];
}

describe('eterno plan', () => {
  it('takes boot for the home of the recovery where the system is root, and the kit’s word that root starts there', async () => {
    const handset = { ...STATE.handset, rootPartition: 'boot', recoveryHome: null, startsOnce: true };
    const of = async (systemAsRoot: boolean) =>
      ((await plan({ ...STATE, handset: { ...handset, systemAsRoot } })) as { exit: number; out: Out }).out;
    const legacy = await of(true);
    expect(legacy.pick).toBe((await of(false)).pick);
    expect(legacy.plans[0]!.steps.at(-1)!.ifItEndsHere).toMatchObject({ rooted: true });
    const kept = (
      (await plan({
        ...STATE,
        goal: 'keep a recovery',
        handset: { ...handset, systemAsRoot: true },
        recovery: { name: 'Lifeboat', opensUpTo: 36 },
      })) as { out: Out }
    ).out.plans.flatMap(({ steps }) => steps.flatMap(({ does }) => does));
    expect(kept.some((tag) => tag.startsWith('write:boot_a:recovery'))).toBe(true);
    expect(kept.some((tag) => tag.startsWith('write:vendor_boot'))).toBe(false);
  });

  it('gives the best plan of every lane, each step with what the handset is if it ends there', async () => {
    const { exit, out } = (await plan(STATE)) as { exit: number; out: Out };
    expect(exit).toBe(0);
    expect(out.pick).toBe('one-image-once');
    expect(out.plans[0]!.steps.map((step) => step.action)).toContain('write-root');
    expect(out.plans[0]!.steps.map((step) => step.ifItEndsHere.sentence)).toContain(
      'It starts from slot a, with root.',
    );
    expect(out.plans[0]!.steps.every((step) => step.ifItEndsHere.starts)).toBe(true);
    expect(out.others.find((one) => one.lane.id === 'start-once-make-lasting')).toMatchObject({
      verdict: 'impossible',
    });
  });
  it('takes images as they are: a looping handset is mended', async () => {
    const images = { init_boot_a: { fingerprint: OTHER_MONTH } };
    const { out } = (await plan({
      ...STATE,
      goal: 'repair',
      state: { ...STATE.state, mode: 'looping', images },
      kept: [`stock ${FINGERPRINT}`],
    })) as { out: Out };
    expect(out.plans.map((one) => one.lane.id)).toContain('stock-images-back');
  });
  it('of a monthly update in place warns of the early restart at the very step', async () => {
    const images = { init_boot_a: { patched: true } };
    const given = {
      ...STATE,
      goal: 'monthly update',
      target: OTHER_MONTH,
      fullPackages: [FINGERPRINT, OTHER_MONTH],
      state: { ...STATE.state, images },
    };
    const { out } = (await plan(given)) as { out: Out };
    const inPlace = out.plans.find((one) => one.lane.id === 'update-in-place-other-slot')!;
    const taken = inPlace.steps.find((step) => step.action === 'take-full-update')!;
    expect(taken.ifItEndsHere.sentence).toMatch(/starts with any restart/);
  });
  it('says what each step really does, in order, and finds out first what nobody has read', async () => {
    const { out } = (await plan({
      ...STATE,
      handset: { ...STATE.handset, recoveryHome: null },
      state: { ...STATE.state, rooted: null, batteryPercent: null },
      goal: 'return to stock',
    })) as { out: Out & { unknown: string[] } };
    expect(out.unknown).toEqual(['root', 'recovery-home', 'battery', 'other-slot']);
    const tags = out.plans[0]!.steps.flatMap(({ does }) => does);
    expect(tags).toEqual([
      ...['read:build', 'read:slot', 'read:lock', 'read:battery', 'read:snapshot'],
      ...['read:root', 'read:recovery-home', 'read:battery', 'read:other-slot'],
      `fetch:package:${FINGERPRINT}`,
      `take:init_boot:${FINGERPRINT}`,
      'mode:bootloader',
      'read:battery',
      `write:init_boot_a:stock:${FINGERPRINT}`,
      'start:a',
      'prove:build',
      'prove:no-root',
    ]);
  });
  it('tells what is left after a power loss apart from what stays', async () => {
    const { out } = (await plan({
      ...STATE,
      goal: 'monthly update',
      target: OTHER_MONTH,
      fullPackages: [FINGERPRINT, OTHER_MONTH],
      state: { ...STATE.state, images: { init_boot_a: { patched: true } } },
    })) as { out: Out };
    const inPlace = out.plans.find((one) => one.lane.id === 'update-in-place-other-slot')!;
    const taken = inPlace.steps.find((step) => step.does.includes(`update:take:${OTHER_MONTH}`))!;
    expect(taken.ifItEndsHere).toMatchObject({ slot: 'a', build: FINGERPRINT, rooted: true });
    expect(taken.ifPowerIsLost).toMatchObject({ slot: 'b', build: OTHER_MONTH, rooted: false });
  });
  it('says the nearest thing that would open a way', async () => {
    const reason = async (change: object, state: object = {}) => {
      const { out } = (await plan({ ...STATE, ...change, state: { ...STATE.state, ...state } })) as {
        out: Out;
      };
      expect(out.plans).toEqual([]);
      return out.others.find(({ lane }) => lane.id === 'one-image-once')!.reason;
    };
    expect(await reason({}, { locked: true })).toMatch(/erases everything/);
    expect(await reason({}, { locked: true, unlockSwitch: 'greyed' })).toMatch(/locked/);
    expect(await reason({ limits: { wipeAllowed: true } }, { locked: true, unlockSwitch: 'greyed' })).toMatch(
      /switch is greyed/,
    );
    expect(await reason({ limits: { keepFuse: true } })).toMatch(/warranty fuse/);
    expect(await reason({ limits: { computer: false } })).toMatch(/computer/);
    expect(await reason({ handset: { ...STATE.handset, rootPartition: 'none' } })).toMatch(/carries root/);
  });
  it.each<[string, unknown]>([
    ['a key that nobody knows', { ...STATE, colour: 'red' }],
    ['such a key in the state', { ...STATE, state: { ...STATE.state, snapshots: 'none' } }],
    ['such a key of an image', { ...STATE, state: { ...STATE.state, images: { boot_a: { patch: true } } } }],
    ['an image of no slot', { ...STATE, state: { ...STATE.state, images: { boot: {} } } }],
    ['a wish that nobody knows', { ...STATE, wishes: ['luck'] }],
    ['no JSON', '{'],
    ['no object', '[]'],
    ['another goal', { ...STATE, goal: 'win' }],
    ['no partitions', { ...STATE, handset: { ...STATE.handset, partitions: [] } }],
    ['a name that is no partition', { ...STATE, handset: { ...STATE.handset, rootPartition: '../x' } }],
    ['three slots', { ...STATE, handset: { ...STATE.handset, slotCount: 3 } }],
    ['no build', { ...STATE, state: { locked: false } }],
  ])('refuses %s', async (_what, value) =>
    expect(await plan(value)).toMatchObject({ exit: 3, error: { code: 'bad-field' } }),
  );
});
