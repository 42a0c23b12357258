import { spawn } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { database, inTransaction } from '@/server/db/connection';
import { databasePath } from '@/server/db/data-dir';
import { migrate } from '@/server/db/migrate';
import { findImage, listImages } from '@/server/repositories/image-repository';
import { listRounds } from '@/server/repositories/round-repository';
import { addHandset } from '@/server/services/bench-service';
import { storeImage } from '@/server/services/image-service';
import { runStep } from '@/server/rounds/over-link';
import { recover } from '@/server/services/recover';
import { startRound } from '@/server/rounds/opening';
import { roundView } from '@/server/rounds/round-view';
import { slotCells } from '@/server/services/slot-service';
import { setCable } from '@/server/services/stand-in-service';
import { isWhole } from '@/server/vault/vault';
import { ended } from '../fixtures/ended-job';
import { bundledChild } from '../fixtures/bundled-child';
import { codeOf } from '../fixtures/expect-error';
import { FINGERPRINT, stockImage } from '../fixtures/images';
import type { LaneWorld } from '../fixtures/lane-world';
import { LANE_PROFILE, laneWorld, OCTOBER } from '../fixtures/lane-world';
import { begin, see, seen, stepNow, version, walk } from '../fixtures/lane-walk';
import { DUMP, freshServer, pieces, sha256 } from '../fixtures/server-world';
import { numbers } from '../fixtures/mutate';
import { SEED, times } from '../fixtures/soak';

/*
 * What is kept stays kept, and what is in doubt is said, whatever happens at the same time or in the middle.
 */

describe('images that come at the same time', () => {
  let world: LaneWorld;
  beforeEach(async () => {
    world = await laneWorld();
  });
  afterEach(() => world.end());
  const monthly = (i: number) =>
    stockImage({ fingerprint: FINGERPRINT.replace('9001', `91${String(i).padStart(2, '0')}`) });

  it('on an open round are all kept, row and file', async () => {
    const round = await begin(world, 'first root');
    await walk(world, round, { until: 'open-installed-package' });
    const images = [
      ...(await Promise.all([1, 2, 3].map(monthly))),
      (await world.imagesOf(FINGERPRINT)).get('init_boot')!,
    ];
    const from = { from: 'package', package: 'hill.zip', partition: 'init_boot', verified: 'yes' } as const;
    await Promise.all(images.map((bytes) => storeImage(sha256(bytes), pieces(bytes), from)));
    for (const bytes of images) {
      expect(await findImage(sha256(bytes))).not.toBeNull();
      expect(await isWhole('images', sha256(bytes))).toBe(true);
    }
    expect((await stepNow(round))!.key).toBe('patch');
  });

  it('twice, once refused, keep what was good', async () => {
    for (let i = 0; i < 8; i += 1) {
      const bytes = await monthly(10 + i);
      const good = () => storeImage(sha256(bytes), pieces(bytes), { from: 'file' });
      const bad = () => codeOf(() => storeImage(sha256(bytes), pieces(bytes), { from: 'patch' }));
      const [, code] = await (i % 2 === 0
        ? Promise.all([good(), bad()])
        : Promise.all([bad(), good()]).then(([a, b]) => [b, a] as const));
      expect(code).toBe('bad-field');
      expect(await isWhole('images', sha256(bytes))).toBe(true);
    }
    for (const { sha256: hash } of await listImages()) expect(await isWhole('images', hash), hash).toBe(true);
  });

  it('rounds of one handset that begin at the same time are one', async () => {
    const wish = {
      handsetId: world.handset,
      goal: 'first root',
      target: null,
      lane: null,
      limits: { computer: true, wipeAllowed: false, keepFuse: false },
    } as const;
    const ids = await Promise.all([1, 2, 3, 4].map(() => startRound(wish)));
    expect(new Set(ids).size).toBe(1);
    expect((await listRounds()).filter(({ state }) => state === 'open')).toHaveLength(1);
  });

  it('statements that write by themselves have their turn among transactions, one after each', async () => {
    const { models } = await database();
    const put = async (key: string) => void (await models.Setting.upsert({ key, value: 'x' } as never));
    let [open, alone] = [true, 0];
    const transactions = async () => {
      for (let i = 0; i < 150; i += 1)
        await inTransaction(async () => {
          for (let k = 0; k < 5; k += 1) await put(`together-${k}`);
        });
      open = false;
    };
    const statements = async () => {
      while (open) {
        await put('alone');
        alone += 1;
      }
    };
    await Promise.all([transactions(), statements()]);
    expect(alone).toBeGreaterThan(75);
  });

  it('forty writes at once end, none of them refused', async () => {
    await Promise.all(
      Array.from({ length: 40 }, (_one, i) =>
        inTransaction(async (transaction, models) => {
          await models.Setting.upsert({ key: `test-${i}`, value: 'x' } as never, { transaction });
        }),
      ),
    );
    const { models } = await database();
    expect(await models.Setting.count()).toBeGreaterThanOrEqual(40);
  });
});

describe('a write that was cut short', () => {
  let world: LaneWorld | null = null;
  afterEach(async () => {
    await world?.end();
    world = null;
  });

  it('by the end of the server leaves the partition unknown in the slot map itself', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root');
    await walk(world, round, { until: 'write-root' });
    world.clock.stop();
    const job = await runStep(round, await version(round));
    const end = ended(job);
    await seen('it writes', ({ screen }) => screen.kind === 'menu' && screen.busy !== null);
    // the next server finds a step that says it runs
    await recover();
    expect(
      (await slotCells(world.handset)).find((cell) => cell.partition === 'init_boot' && cell.slot === 'a'),
    ).toMatchObject({
      verdict: 'unknown',
      sha256: null,
    });
    const view = await roundView(round);
    expect(view.steps[view.current!]).toMatchObject({ key: 'write-root', state: 'interrupted' });
    expect(view.steps[view.current!]!.evidence.at(-1)!.what).toContain('init_boot_a is unknown');
    world.clock.go();
    await end;
  });

  it('in a whole build says what was written before, and what is in doubt', async () => {
    world = await laneWorld({ rooted: ['a'] });
    const round = await begin(world, 'monthly update', { lane: 'whole-build-patched', target: OCTOBER });
    await walk(world, round, { until: 'write-build-patched' });
    world.clock.stop();
    const end = ended(await runStep(round, await version(round)));
    const radio = async () => {
      const { screen } = await see();
      return screen.kind === 'menu' && screen.busy === 'writing radio_a';
    };
    while (!(await radio())) await world.clock.pass(1);
    await setCable(LANE_PROFILE, false);
    world.clock.go();
    expect(await end).toMatchObject({ state: 'failed' });
    const said = (await stepNow(round))!.evidence.map(({ what }) => what).join('; ');
    expect(said).toContain('written before it went wrong: bootloader_a');
    expect(said).not.toContain('nothing was written');
    const cells = await slotCells(world.handset);
    expect(cells.find((cell) => cell.partition === 'bootloader' && cell.slot === 'a')?.verdict).toBe(
      'predicted',
    );
    expect(cells.find((cell) => cell.partition === 'radio' && cell.slot === 'a')?.verdict ?? 'unknown').toBe(
      'unknown',
    );
  });
});

describe('a migration', () => {
  it('that is killed at any moment leaves the store as it was, or done', async () => {
    const child = await bundledChild('src/server/db/migrate-command.ts');
    const next = numbers(SEED);
    for (let i = 0; i < times(6, 100); i += 1) {
      const server = await freshServer(false);
      await new Promise<void>((resolve) => {
        const writer = spawn(process.execPath, [child], {
          env: { ...process.env, ETERNO_DATA: server.dir },
          stdio: 'ignore',
        });
        setTimeout(() => writer.kill('SIGKILL'), 60 + next(340));
        writer.on('close', () => resolve());
      });
      await migrate();
      const { sequelize } = await database();
      expect((await sequelize.query('PRAGMA integrity_check', { plain: true })) as object).toEqual({
        integrity_check: 'ok',
      });
      expect(await migrate()).toEqual([]);
      expect(await listRounds()).toEqual([]);
      await server.end();
    }
  });
  it('copies the store beside it first, and a later start never replaces that copy', async () => {
    const server = await freshServer();
    const { sequelize } = await database();
    const back = async () => {
      await sequelize.query("DELETE FROM SequelizeMeta WHERE name = '0008-one-open-round'");
      await sequelize.query('DROP INDEX rounds_one_open_a_handset');
    };
    await back();
    expect(await migrate()).toEqual(['0008-one-open-round']);
    const copy = `${databasePath()}.before-0008-one-open-round`;
    const first = await readFile(copy);
    await back();
    await sequelize.query('CREATE TABLE later (a TEXT)');
    expect(await migrate()).toEqual(['0008-one-open-round']);
    expect(await readFile(copy)).toEqual(first);
    await server.end();
  });
  it('leaves one open round a handset where there were two', async () => {
    const server = await freshServer();
    const { sequelize, models } = await database();
    await sequelize.query("DELETE FROM SequelizeMeta WHERE name = '0008-one-open-round'");
    await sequelize.query('DROP INDEX rounds_one_open_a_handset');
    const handsetId = await addHandset('North', DUMP);
    for (const [id, openedAt] of [
      ['r1', 5],
      ['r2', 7],
      ['r3', 6],
    ] as const)
      await models.Round.create({
        id,
        handsetId,
        kind: 'first root',
        lane: 'x',
        title: 't',
        target: null,
        plan: '{}',
        basedOn: null,
        state: 'open',
        version: 0,
        overrides: '[]',
        openedAt,
        closedAt: null,
        again: null,
        againNote: null,
      } as never);
    await migrate();
    expect((await listRounds()).map(({ id, state }) => [id, state])).toEqual([
      ['r2', 'open'],
      ['r3', 'given-up'],
      ['r1', 'given-up'],
    ]);
    await server.end();
  });
});
