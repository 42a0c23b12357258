import type { NotStock } from '@/core/words/gates';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { StepKey } from '@/core/steps/step-key';
import { appendEvent } from '@/server/repositories/event-repository';
import { writeSecret, insertFacts } from '@/server/repositories/handset-repository';
import { listImages } from '@/server/repositories/image-repository';
import { insertBackup } from '@/server/repositories/record-repository';
import { now } from '@/server/services/clock';
import { handsetDetail } from '@/server/services/handset-service';
import { storeImage } from '@/server/services/image-service';
import { learnt } from '@/server/services/learnt-service';
import { giveUpRound } from '@/server/rounds/by-hand';
import { newestOpenRound } from '@/server/rounds/open-rounds';
import { runStep, sendToStepMode } from '@/server/rounds/over-link';
import { patchedOf, roundContext } from '@/server/rounds/round-context';
import { gatesOf } from '@/server/rounds/round-gates';
import { settleRounds } from '@/server/rounds/settling';
import { roundView } from '@/server/rounds/round-view';
import { slotCells, reportSlot } from '@/server/services/slot-service';
import { setCable } from '@/server/services/stand-in-service';
import { isWhole } from '@/server/vault/vault';
import { ended } from '../fixtures/ended-job';
import { codeOf } from '../fixtures/expect-error';
import type { LaneWorld } from '../fixtures/lane-world';
import { LANE_PROFILE, laneWorld, SEPTEMBER } from '../fixtures/lane-world';
import { begin, seen, version, walk } from '../fixtures/lane-walk';
import { pieces, sha256 } from '../fixtures/server-world';

/*
 * What a round believes, from what is stored: each fact that a gate or a plan reads, on either side of its
 * boundary.
 */

const DAY_MS = 86_400_000;
let world: LaneWorld;
let round: string;
beforeEach(async () => {
  world = await laneWorld();
  round = await begin(world, 'first root');
});
afterEach(() => world.end());

const planned = { slot: 'a' as const, build: SEPTEMBER };
async function gate(key: StepKey, id: string) {
  const context = await roundContext(round);
  const about = { ...context.steps[0]!.planned, ...planned };
  return (await gatesOf(context, { key, planned: about })).find((check) => check.id === id)!;
}
const tell = (key: string, value: string) =>
  insertFacts(world.handset, [{ key, value }], { source: 'link', witness: 'bootloader', at: now() });

describe('the gates of a step, from what is stored', () => {
  it.each([
    [13.9, 'off the handset', 'holds', 'yes'],
    [14.9, 'off the handset', 'holds', 'yes'],
    [15.1, 'off the handset', 'unknown', 'no'],
    [1, 'on the handset', 'unknown', 'unknown'],
  ] as const)('a backup %d days old and %s: %s', async (days, place, verdict, answer) => {
    await insertBackup({
      handsetId: world.handset,
      what: 'files',
      place,
      note: '',
      parts: null,
      at: now() - days * DAY_MS,
    });
    expect((await gate('unlock', 'backup')).verdict).toBe(verdict);
    const questions = (await handsetDetail(world.handset)).feasibility.questions;
    expect(questions.find(({ id }) => id === 'backup')?.answer).toBe(answer);
  });

  it.each([
    ['0', 'holds'],
    ['1', 'holds'],
    ['2', 'fails'],
  ] as const)('a fuse of %s against a bootloader of level 1: %s', async (fuse, verdict) => {
    await world.keepPackageOf(SEPTEMBER);
    await world.keepImagesOf(SEPTEMBER);
    await tell('antiRollback', fuse);
    expect((await gate('write-build', 'fuse')).verdict).toBe(verdict);
    expect((await gate('write-build', 'whole')).verdict).toBe('holds');
  });

  it('a build is whole only with every image of its package', async () => {
    expect((await gate('write-build', 'whole')).verdict).toBe('fails');
    await world.keepPackageOf(SEPTEMBER);
    await world.keepImagesOf(SEPTEMBER, ['init_boot', 'boot']);
    expect((await gate('write-build', 'whole')).saw).toMatchObject({
      partitions: expect.arrayContaining(['radio']) as string[],
    });
  });

  it('locking wants every partition of both slots read or written in stock', async () => {
    await world.keepImagesOf(SEPTEMBER);
    const where = async () =>
      ((await gate('lock', 'makers-own')).saw as { where: readonly NotStock[] }).where;
    const before = await where();
    expect(before).toContainEqual({ partition: 'init_boot', slot: 'a', why: 'never-seen' });
    expect(before).toContainEqual({ partition: 'boot', slot: 'b', why: 'never-seen' });
    expect(before.some(({ partition }) => partition === 'dtbo')).toBe(false);
    await reportSlot({
      handsetId: world.handset,
      slot: 'a',
      partition: 'dtbo',
      sha256: 'f'.repeat(64),
      certainty: 'read',
      reason: 'read back',
    });
    const after = await where();
    expect(after).toContainEqual({ partition: 'dtbo', slot: 'a', why: 'other' });
    expect(after).toContainEqual({ partition: 'dtbo', slot: 'b', why: 'never-seen' });
  });

  it('only a stock image that is whole in the vault is a way back', async () => {
    expect((await gate('write-root', 'stock-kept')).verdict).toBe('fails');
    await world.keepImagesOf(SEPTEMBER, ['init_boot']);
    expect((await gate('write-root', 'stock-kept')).verdict).toBe('holds');
  });

  it.each([
    ['5', 'holds', { code: 'index', build: 5, stored: 5 }],
    ['6', 'fails', { code: 'index', build: 5, stored: 6 }],
    [null, 'unknown', { code: 'index-unread' }],
  ] as const)('locking over a build of index 5 with %s stored: %s', async (stored, verdict, saw) => {
    await world.keepImagesOf(SEPTEMBER);
    if (stored !== null) await tell('storedIndex', stored);
    expect(await gate('lock', 'index')).toMatchObject({ verdict, saw });
  });

  it('that nothing has to be kept counts once its step is done', async () => {
    const saw = async (state: 'done' | 'failed') => {
      const context = await roundContext(round);
      const [first] = context.steps;
      const said = {
        ...first!,
        key: 'back-up' as const,
        state,
        evidence: [{ what: 'said', strength: 'weak' as const, nothingKept: 'it is empty' }],
      };
      const planned = { ...first!.planned, slot: 'a' as const, build: SEPTEMBER };
      const checks = await gatesOf({ ...context, steps: [said] }, { key: 'unlock', planned });
      return checks.find(({ id }) => id === 'backup')!;
    };
    expect((await saw('done')).saw).toMatchObject({ nothingToKeep: 'it is empty' });
    expect((await saw('done')).verdict).toBe('holds');
    expect((await saw('failed')).saw).toMatchObject({ nothingToKeep: null });
    expect((await saw('failed')).verdict).not.toBe('holds');
  });

  it.each(['damaged', 'missing'] as const)(
    'a stock image that the last look found %s is no way back',
    async (how) => {
      await world.keepImagesOf(SEPTEMBER, ['init_boot']);
      const hash = sha256((await world.imagesOf(SEPTEMBER)).get('init_boot')!);
      const looked = (data: Partial<Record<'damaged' | 'missing', readonly string[]>>) =>
        appendEvent({
          at: now(),
          handsetId: null,
          roundId: null,
          kind: 'vault-checked',
          data: { version: 1, checked: 1, bytes: 1, damaged: [], missing: [], strays: [], ...data },
        });
      const said = async () => {
        const { wayBack, feasibility } = await handsetDetail(world.handset);
        const { says } = feasibility.questions.find(({ id }) => id === 'package')!;
        return [wayBack.open, says.code];
      };
      await looked({ [how]: [hash] });
      expect(await said()).toEqual([false, 'no-package']);
      await looked({});
      expect(await said()).toEqual([true, 'only-stock-kept']);
    },
  );

  it('a partition’s size is read with its slot first', async () => {
    await world.keepPatched(SEPTEMBER);
    await tell('partition-size:init_boot_a', '0x40000');
    expect((await gate('write-root', 'room')).verdict).toBe('holds');
    await tell('partition-size:init_boot_a', '0x3ffff');
    expect(await gate('write-root', 'room')).toMatchObject({ verdict: 'fails', overridable: false });
  });
});

describe('a patched image', () => {
  it('counts only with its proof, of this partition, build and stock image', async () => {
    const hash = await world.keepPatched(SEPTEMBER);
    expect(patchedOf(await roundContext(round), SEPTEMBER)?.sha256).toBe(hash);
    const row = (await listImages()).find((image) => image.sha256 === hash)!;
    const context = await roundContext(round);
    const withRow = (change: object) => ({
      ...context,
      bench: {
        ...context.bench,
        images: context.bench.images.map((one) => (one.sha256 === hash ? { ...row, ...change } : one)),
      },
    });
    expect(patchedOf(withRow({}), SEPTEMBER)?.sha256).toBe(hash);
    for (const change of [
      { proof: null },
      { role: 'unknown' },
      { partition: 'boot' },
      { fingerprint: 'another' },
      { stockSha256: 'f'.repeat(64) },
    ])
      expect(patchedOf(withRow(change), SEPTEMBER), JSON.stringify(change)).toBeNull();
  });
  it('that fails a second time stays what it was', async () => {
    const stock = (await world.imagesOf(SEPTEMBER)).get('init_boot')!;
    const hash = await world.keepPatched(SEPTEMBER);
    expect(await codeOf(() => storeImage(sha256(stock), pieces(stock), { from: 'patch' }))).toBe('bad-field');
    expect(await isWhole('images', sha256(stock))).toBe(true);
    expect(await isWhole('images', hash)).toBe(true);
  });
});

describe('what the vault proves', () => {
  it('ends steps in their order only: none behind one that is still open', async () => {
    await world.keepPackageOf(SEPTEMBER);
    await world.keepPatched(SEPTEMBER);
    await settleRounds();
    const { steps } = await roundView(round);
    expect(steps[0]!.key).toBe('read-facts');
    expect(steps.map(({ state }) => state)).toEqual(steps.map(() => 'waiting'));
  });
});

describe('the bootloader', () => {
  it('of another handset is refused by its serial before anything is written', async () => {
    await walk(world, round, { until: 'bootloader' });
    await sendToStepMode(round, await version(round));
    await seen('the bootloader', (view) => view.state.mode === 'bootloader');
    await writeSecret(world.handset, 'serial', 'OTHER99');
    const job = await ended(await runStep(round, await version(round)));
    expect(job).toMatchObject({ state: 'failed', error: { code: 'refused' } });
    await writeSecret(world.handset, 'serial', 'SERIAL42');
    await walk(world, round, { until: 'write-root' });
    await writeSecret(world.handset, 'serial', 'OTHER99');
    expect(await ended(await runStep(round, await version(round)))).toMatchObject({
      state: 'failed',
      error: { code: 'refused' },
    });
    expect(await slotCells(world.handset)).toEqual([]);
  });
});

describe('what the log teaches', () => {
  it('counts each slip among its chances', async () => {
    await walk(world, round, { until: 'write-root' });
    expect((await learnt()).slips).toEqual({
      'early restart': { slips: 0, chances: 0 },
      'wrong slot': { slips: 0, chances: 0 },
      'cable lost': { slips: 0, chances: 0 },
    });
    world.clock.stop();
    const job = ended(await runStep(round, await version(round)));
    await seen('it writes', ({ screen }) => screen.kind === 'menu' && screen.busy !== null);
    await setCable(LANE_PROFILE, false);
    world.clock.go();
    expect(await job).toMatchObject({ error: { code: 'link-lost' } });
    expect((await learnt()).slips['cable lost']).toEqual({ slips: 1, chances: 1 });
    await setCable(LANE_PROFILE, true);
    await ended(await runStep(round, await version(round)));
    expect((await learnt()).slips).toMatchObject({
      'cable lost': { slips: 1, chances: 2 },
      'wrong slot': { slips: 0, chances: 1 },
    });
    // what waits is no chance yet, and a round that is over is not the one that is open
    expect((await roundView(round)).runningJob).toBeNull();
    expect(await newestOpenRound()).toMatchObject({ id: round });
    await giveUpRound(round, await version(round));
    expect(await newestOpenRound()).toBeNull();
  });
});
