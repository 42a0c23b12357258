import { afterEach, describe, expect, it } from 'vitest';
import { insertRecovery } from '@/server/repositories/record-repository';
import { storeImage } from '@/server/services/image-service';
import { noteBackup, noteEdge, shelveRecovery } from '@/server/services/record-service';
import { roundContext } from '@/server/rounds/round-context';
import { gatesOf } from '@/server/rounds/round-gates';
import { confirmChecks } from '@/server/rounds/by-hand';
import { sideloadStep } from '@/server/rounds/sideload';
import { codeOf } from '../fixtures/expect-error';
import { entry, seeded, stockEntries, stockImage, FINGERPRINT } from '../fixtures/images';
import type { StockOptions } from '../fixtures/images';
import { begin, see, stepNow, version, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { AUGUST, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { lifeboat } from '../fixtures/lifeboat';
import { pieces, sha256 } from '../fixtures/server-world';

/* Nothing is written to a handset that was not proved to belong there, whatever it is offered as. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});
const SLATE = { slotCount: 1, rootPartition: 'boot', hasUserspace: false, recoveryHome: 'recovery' } as const;
const NOTE = entry('lifeboat.json', JSON.stringify({ recovery: 'Lifeboat 3.8', opensUpTo: 36 }));
const idOf = (fingerprint: string) => fingerprint.split('/')[3]!;
const shelf = (stored: string | null, note = 'its maker’s page names it', devices = ['hill']) => ({
  name: 'Lifeboat',
  version: '3.8',
  channel: 'stable' as const,
  devices,
  sdkFrom: 29,
  sdkTo: 36,
  sha256: stored,
  note,
});
async function keep(options: StockOptions): Promise<string> {
  const image = await stockImage({ version: 2, kernel: seeded(9, 4000), ...options });
  return (await storeImage(sha256(image), pieces(image), { from: 'file', name: 'it.img' })).sha256;
}

describe('an image that is shelved as a recovery', () => {
  it.each<[string, StockOptions]>([
    ['a boot image', { partition: 'boot' }],
    ['a boot image with a recovery in it', { partition: 'boot', entries: [...stockEntries(), NOTE] }],
    ['a radio', { partition: 'radio' }],
    ['the maker’s own recovery', { partition: 'recovery' }],
  ])('can’t be %s', async (_what, options) => {
    world = await laneWorld({ profile: SLATE });
    const stored = await keep(options);
    expect(await codeOf(() => shelveRecovery(shelf(stored)))).toBe('does-not-fit');
  });
  it('needs to be for that handset by its own data, or by a reason where it says nothing', async () => {
    world = await laneWorld({ profile: SLATE });
    const entries = [...stockEntries(), NOTE];
    const other = await keep({
      partition: 'recovery',
      entries,
      fingerprint: FINGERPRINT.replace('/hill:', '/moor:'),
    });
    expect(await codeOf(() => shelveRecovery(shelf(other)))).toBe('does-not-fit');
    const mute = await keep({ partition: 'recovery', entries, fingerprint: 'none' });
    expect(await codeOf(() => shelveRecovery(shelf(mute, '')))).toBe('bad-field');
    await shelveRecovery(shelf(mute));
  });
  // a store of before could hold any image on that shelf
  it.each<[string, StockOptions, string]>([
    ['a boot image', { partition: 'boot', fingerprint: AUGUST }, 'recovery-image'],
    [
      'a recovery of another handset',
      {
        partition: 'recovery',
        entries: [...stockEntries(), NOTE],
        fingerprint: FINGERPRINT.replace('/hill:', '/moor:'),
      },
      'recovery-handset',
    ],
  ])('and was shelved before anybody looked is held at the checks: %s', async (_what, options, id) => {
    world = await laneWorld({ profile: SLATE });
    await world.keepImagesOf(SEPTEMBER, ['boot', 'recovery']);
    const stored = await keep(options);
    const { devices, ...row } = shelf(stored);
    await insertRecovery({ ...row, devices, addedAt: 1 });
    const round = await begin(world, 'first root', { lane: 'through-the-recovery' });
    await walk(world, round, { until: 'check' });
    const context = await roundContext(round);
    const step = context.steps.find(({ key }) => key === 'write-recovery')!;
    const check = (await gatesOf(context, step)).find((one) => one.id === id);
    expect(check).toMatchObject({ verdict: 'fails', overridable: false });
    expect(
      await codeOf(async () =>
        confirmChecks(round, await version(round), [{ checkId: id, reason: 'it will do' }]),
      ),
    ).toBe('refused');
    expect((await see()).state.images['recovery_a']!.recovery).toBeNull();
  });
});

describe('a package by sideload', () => {
  const down = async () => {
    world = await laneWorld({ profile: { sideloadsDown: [{ from: SEPTEMBER, to: AUGUST }] } });
    await noteBackup({ handsetId: world.handset, what: 'files', place: 'off the handset', note: '' });
    await noteEdge(world.handset, {
      fromBuild: idOf(SEPTEMBER),
      toBuild: idOf(AUGUST),
      allowed: 'yes',
      bootloader: null,
      note: '',
    });
    const round = await begin(world, 'downgrade', { lane: 'sideload', target: AUGUST, wipe: true });
    await walk(world, round, { until: 'sideload' });
    return round;
  };
  const send = async (round: string, bytes: Uint8Array, size = bytes.length) => {
    await sideloadStep(round, await version(round), { size, pieces: pieces(bytes), fileName: 'a.zip' });
    return (await stepNow(round))!;
  };
  it('is judged before the handset gets its first byte', async () => {
    const round = await down();
    const { state } = await see();
    const whole = await world!.packageOf(AUGUST);
    const cut = whole.slice(0, 4000);
    for (const [bytes, size, says] of [
      [await world!.packageOf(OCTOBER), undefined, idOf(OCTOBER)],
      [new TextEncoder().encode('no package'), undefined, 'which build'],
      [cut, undefined, 'nothing was written'],
      [cut, whole.length, 'ended after'],
    ] as const) {
      const step = await send(round, bytes, size);
      expect(step).toMatchObject({ key: 'sideload', state: 'failed' });
      expect(step.evidence.map(({ what }) => what).join()).toContain(says);
      expect((await see()).state).toEqual(state);
    }
    expect(await send(round, whole)).not.toMatchObject({ key: 'sideload' });
  });
  it('that was refused once is not sent again, whatever else was noted', async () => {
    const round = await down();
    await noteEdge(world!.handset, {
      fromBuild: idOf(SEPTEMBER),
      toBuild: idOf(AUGUST),
      allowed: 'no',
      bootloader: null,
      note: '',
    });
    const step = await send(round, await world!.packageOf(AUGUST));
    expect(step.evidence.map(({ what }) => what).join()).toContain('was refused before');
    expect((await see()).state.builds.a).toBe(SEPTEMBER);
  });
});

describe('a recovery', () => {
  it('is not written where nobody read where recovery lives', async () => {
    world = await laneWorld({ profile: { rootPartition: 'boot' } });
    await lifeboat();
    for (const lane of ['through-the-recovery', 'write-a-recovery'])
      expect(
        await codeOf(() =>
          begin(world!, lane === 'write-a-recovery' ? 'keep a recovery' : 'first root', { lane }),
        ),
      ).toBe('refused');
  });
});
