import { afterEach, describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { putRecovery } from '@/core/patch/put-recovery';
import { nodePorts } from '@/platform/node/node-ports';
import { readProved } from '@/server/vault/vault';
import { insertRecovery } from '@/server/repositories/record-repository';
import { storeImage } from '@/server/services/image-service';
import { noteBackup, noteEdge, shelveRecovery } from '@/server/services/record-service';
import type { RoundContext } from '@/server/rounds/round-context';
import { imageOf, roundContext } from '@/server/rounds/round-context';
import { putIntoStock } from '@/server/services/rebuilt-recovery';
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
    await insertRecovery({ ...row, opensUpTo: null, devices, addedAt: 1 });
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

describe('a recovery that shares its partition', () => {
  const sharing = async () => {
    world = await laneWorld({ profile: { recoveryHome: 'vendor_boot' }, rooted: ['a'] });
    await world.keepImagesOf(SEPTEMBER, ['vendor_boot', 'init_boot']);
    await world.keepPatched(SEPTEMBER);
    return { own: world, recovery: await lifeboat() };
  };
  const stockOf = async (own: LaneWorld, partition = 'vendor_boot', build = SEPTEMBER) =>
    sha256((await own.imagesOf(build)).get(partition)!);

  it('goes into a stock image only, and only one of its handset', async () => {
    const { own, recovery } = await sharing();
    const [stock, made] = [await stockOf(own), await own.putRecoveryIn(SEPTEMBER)];
    expect(await codeOf(() => putIntoStock(made, recovery))).toBe('refused');
    expect(await codeOf(() => putIntoStock('0'.repeat(64), recovery))).toBe('not-found');
    expect(await codeOf(() => putIntoStock(stock, stock))).toBe('refused');
    // it lies in the vault, and nobody put it on the shelf for this handset
    const entries = [...stockEntries(), NOTE];
    const other = await keep({ partition: 'recovery', entries, fingerprint: 'none', cmdline: 'moor' });
    await insertRecovery({ opensUpTo: null, ...shelf(other, 'for moors', ['moor']), addedAt: 1 });
    expect(await codeOf(() => putIntoStock(stock, other))).toBe('refused');
  });
  it('is never written whole, nor inside the image of another build', async () => {
    const { own } = await sharing();
    await own.keepImagesOf(OCTOBER, ['vendor_boot']);
    const strange = await own.putRecoveryIn(OCTOBER);
    const round = await begin(own, 'keep a recovery', { lane: 'write-a-recovery' });
    await walk(own, round, { until: 'write-recovery' });
    const context = await roundContext(round);
    const step = context.steps.find(({ key }) => key === 'write-recovery')!;
    expect(imageOf(context, step)).toMatchObject({ sha256: await own.putRecoveryIn(SEPTEMBER) });
    const verdictOf = async (change: Partial<RoundContext>) =>
      (await gatesOf({ ...context, ...change }, step)).find(({ id }) => id === 'recovery-home')!;
    expect(await verdictOf({})).toMatchObject({ verdict: 'holds' });
    // what was made for another build lies in the vault too: were it taken for this one’s, it would not pass
    const images = context.bench.images.map((image) =>
      image.recoverySha256 !== null && image.sha256 !== strange ? { ...image, fingerprint: OCTOBER } : image,
    );
    expect(await verdictOf({ bench: { ...context.bench, images } })).toMatchObject({
      verdict: 'fails',
      overridable: false,
    });
    const without = context.bench.images.filter(({ recoverySha256 }) => recoverySha256 === null);
    const none = (await gatesOf({ ...context, bench: { ...context.bench, images: without } }, step)).find(
      ({ id }) => id === 'recovery-image',
    );
    expect(none).toMatchObject({ verdict: 'fails', overridable: false });
  });
  it('may come as a whole vendor_boot, of which its recovery fragment is used', async () => {
    const { own, recovery } = await sharing();
    const { bytes: other } = await putRecovery(
      memorySource((await own.imagesOf(AUGUST)).get('vendor_boot')!),
      memorySource(await readProved('images', recovery)),
      nodePorts,
    );
    const stored = await storeImage(sha256(other), pieces(other), { from: 'file', name: 'theirs.img' });
    expect(stored.role).toBe('unknown');
    await shelveRecovery(shelf(stored.sha256));
    const made = await putIntoStock(await stockOf(own), stored.sha256);
    expect(made).toMatchObject({ role: 'recovery', partition: 'vendor_boot' });
    expect(made.proof!.every(({ ok }) => ok)).toBe(true);
  });
});

describe('a package by sideload', () => {
  const down = async () => {
    world = await laneWorld({ profile: { sideloadsDown: [{ from: SEPTEMBER, to: AUGUST }] } });
    await noteBackup({
      handsetId: world.handset,
      what: 'files',
      place: 'off the handset',
      note: '',
      parts: null,
    });
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
