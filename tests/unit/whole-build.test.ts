import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import { PUT } from '@/app/api/rounds/[id]/build/route';
import { EternoError } from '@/core/errors';
import { LIMITS } from '@/core/limits';
import { writeBuildFrom } from '@/server/rounds/build-package';
import { giveUpRound, showAtStep } from '@/server/rounds/by-hand';
import { updateHandset } from '@/server/repositories/handset-repository';
import { listImages } from '@/server/repositories/image-repository';
import { imageFileName } from '@/server/services/image-view';
import { saveCommands } from '@/server/services/vocabulary-service';
import { pasteAtStep } from '../fixtures/at-step';
import { runStep } from '@/server/rounds/over-link';
import { roundView } from '@/server/rounds/round-view';
import { listJobs, stopJob } from '@/server/services/jobs';
import { slotCells } from '@/server/services/slot-service';
import { setCable } from '@/server/services/stand-in-service';
import { cutPieces } from '@/server/services/streams';
import { ended } from '../fixtures/ended-job';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { LANE_PROFILE, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { begin, see, stepNow, version, walk } from '../fixtures/lane-walk';
import { pieces, sha256 } from '../fixtures/server-world';
import { StandInStore } from '@/stand-in/stand-in-store';

/*
 * A whole build whose system is too large to be kept: it goes from the package's file to the handset, on a
 * real stand-in, with a real database and disk.
 */

const SYSTEM = LIMITS.keptImageBytes + 1024 * 1024;

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

/** At the step that writes all of October. */
async function atTheWrite(lane: string, until: string, options: LaneOptions = {}) {
  world = await laneWorld({
    rooted: ['a'],
    offer: OCTOBER,
    systemBytes: SYSTEM,
    ...options,
    profile: { maxDownloadBytes: 48 * 1024 * 1024, ...options.profile },
  });
  await world.keepPatched(SEPTEMBER);
  const round = await begin(world, 'monthly update', { lane });
  await walk(world, round, { until: until as never });
  return { own: world, round };
}

const send = async (round: string, files: Readonly<Record<string, Uint8Array>>, cut = 0) => {
  const all = Object.entries(files);
  const bytes = Buffer.concat(all.map(([, one]) => one));
  await writeBuildFrom(round, await version(round), {
    files: all.map(([name, { length }]) => ({ name, size: length })),
    cut: cutPieces(pieces(bytes.subarray(0, bytes.length - cut), 1 << 20)),
  });
};
const incoming = async (own: LaneWorld) => readdir(join(own.dir, 'incoming')).catch(() => []);
const cell = async (own: LaneWorld, partition: string) =>
  (await slotCells(own.handset)).find((one) => one.partition === partition && one.slot === 'a');
const onHandset = async (own: LaneWorld, name: string) =>
  sha256(await new StandInStore(join(own.dir, 'stand-in', LANE_PROFILE)).readImage(name));

describe('a system that is too large to be kept', () => {
  it('passes through: nothing is missing without it, and all of the build is written', async () => {
    const { own, round } = await atTheWrite('whole-build-then-root', 'write-build');
    const stock = (await own.imagesOf(OCTOBER)).get('system')!;
    const { passes, checks } = await roundView(round);
    expect(passes).toEqual({
      file: { name: `${OCTOBER.split('/')[3]}.zip`, sizeBytes: expect.any(Number) },
      partitions: ['system'],
      sizeBytes: SYSTEM,
      held: false,
    });
    expect(checks.find(({ id }) => id === 'whole')?.verdict).toBe('holds');
    // without its package nothing of it is written
    const tried = await ended(await runStep(round, await version(round)));
    expect(tried).toMatchObject({ state: 'failed', error: { code: 'refused' } });
    expect((await see()).state.record.writes).toBe(0);
    await send(round, { 'october.zip': await own.packageOf(OCTOBER) });
    expect((await roundView(round)).steps.find(({ key }) => key === 'write-build')?.state).toBe('done');
    expect(await cell(own, 'system')).toMatchObject({ sha256: sha256(stock), verdict: 'predicted' });
    expect(await onHandset(own, 'system_a')).toBe(sha256(stock));
    expect((await see()).state.builds.a).toBe(OCTOBER);
    expect(await incoming(own)).toEqual([]);
    await walk(own, round);
    expect((await see()).state).toMatchObject({ running: { slot: 'a', build: OCTOBER, rooted: true } });
    expect((await roundView(round)).state).toBe('closed');
  });

  it('is taken from no other package, nor from half of one, and nothing of them stays', async () => {
    const { own, round } = await atTheWrite('whole-build-then-root', 'write-build');
    const october = await own.packageOf(OCTOBER);
    for (const [files, cut, code] of [
      [{ 'september.zip': await own.packageOf(SEPTEMBER) }, 0, 'does-not-fit'],
      [{ 'odd.zip': new Uint8Array([1, 2, 3]) }, 0, 'does-not-fit'],
      [{ 'october.zip': october }, 1, 'truncated'],
    ] as const) {
      await send(round, files, cut);
      const job = (await listJobs()).find((one) => one.roundId === round);
      expect(job).toMatchObject({ state: 'failed', error: { code } });
      expect(await incoming(own)).toEqual([]);
      expect((await roundView(round)).passes?.held).toBe(false);
    }
    expect((await see()).state.record.writes).toBe(0);
    expect((await see()).state.builds.a).toBe(SEPTEMBER);
    // a round that is given up keeps no package either
    const sending = send(round, { 'october.zip': october });
    const running = await runningJob(round);
    stopJob(running.id, new EternoError('cancelled', 'Stopped on request.'));
    await sending;
    await giveUpRound(round, await version(round));
    expect(await incoming(own)).toEqual([]);
  });

  it('stopped in the middle it goes on behind what was written, without being sent again', async () => {
    const { own, round } = await atTheWrite('whole-build-then-root', 'write-build');
    const sending = send(round, { 'october.zip': await own.packageOf(OCTOBER) });
    const { id } = await runningJob(round);
    await until(
      async () =>
        (await cell(own, 'radio'))?.sha256 === sha256((await own.imagesOf(OCTOBER)).get('radio')!) ||
        (await see()).state.mode === 'userspace',
    );
    stopJob(id, new EternoError('cancelled', 'Stopped on request.'));
    await sending;
    expect((await stepNow(round))?.state).toBe('failed');
    const { passes } = await roundView(round);
    expect(passes?.held).toBe(true);
    const before = (await see()).state.record.writes;
    expect(before).toBeGreaterThan(0);
    const again = await ended(await runStep(round, await version(round)));
    expect(again.state).toBe('done');
    const done = (await roundView(round)).steps.find(({ key }) => key === 'write-build')!;
    expect(done.evidence.some(({ what }) => what.includes('written before it was stopped'))).toBe(true);
    expect(await onHandset(own, 'system_a')).toBe(sha256((await own.imagesOf(OCTOBER)).get('system')!));
    expect(await onHandset(own, 'bootloader_a')).toBe(
      sha256((await own.imagesOf(OCTOBER)).get('bootloader')!),
    );
    expect(await incoming(own)).toEqual([]);
  });
});

describe('its request', () => {
  const put = async (round: string, version: number, head: string, length: number | string, rest = '') => {
    const url = `http://127.0.0.1:3210/api/rounds/${round}/build?version=${version}&head=${length}`;
    const request = new Request(url, {
      method: 'PUT',
      headers: { host: '127.0.0.1:3210', origin: 'http://127.0.0.1:3210' },
      body: head + rest,
    });
    const response = await PUT(request, { params: Promise.resolve({ id: round }) });
    const told = (await response.json()) as { ok?: true; error?: { code: string } };
    return told.error?.code ?? 'ok';
  };
  const NOBODY = '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0001';
  const one = JSON.stringify([{ name: 'a.zip', size: 3 }]);
  it.each([
    ['no JSON', '[oops', 5, 'bad-field'],
    ['no list', '{}', 2, 'bad-field'],
    ['a list of nothing', '[]', 2, 'bad-field'],
    ['a file without a size', '[{"name":"a.zip"}]', 18, 'bad-field'],
    ['more of it than there may be', one, 64 * 1024 + 1, 'bad-field'],
    ['no length of it', one, 'x', 'bad-field'],
    ['a round that nobody began', one, one.length, 'not-found'],
  ])('with %s is refused by type', async (_, head, length, code) => {
    world = await laneWorld();
    expect(await put(NOBODY, 0, head, length, 'abc')).toBe(code);
    expect(await incoming(world)).toEqual([]);
  });
  it('at another step, or of an older version, changes nothing', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root');
    const at = await version(round);
    expect(await put(round, at, one, one.length, 'abc')).toBe('conflict');
    expect(await put(round, at + 1, one, one.length, 'abc')).toBe('conflict');
    expect(await version(round)).toBe(at);
    expect(await incoming(world)).toEqual([]);
  });
});

describe('the same by hand', () => {
  it('is a list of files in the order of their writes, ticked off by what is pasted', async () => {
    const { own, round } = await atTheWrite('whole-build-patched', 'write-build-patched');
    await updateHandset(own.handset, { link: 'hand', profile: null });
    await saveCommands(
      'posix',
      { write: 'put {target} {file}', 'enter bootloader': 'again {serial}' },
      'mytool 1.2',
    );
    const { hand, passes, steps, current } = await roundView(round);
    expect(steps[current!]!.key).toBe('write-build-patched');
    expect(passes?.partitions).toEqual(['system']);
    const patched = (await listImages()).find(
      (one) => one.role === 'patched' && one.fingerprint === OCTOBER,
    )!;
    const turns = hand!.turns.map((turn) =>
      turn.do === 'write'
        ? [turn.targets.join(' '), turn.commands.join(' '), turn.take, turn.sizeBytes, turn.sha256]
        : turn.do === 'restart'
          ? [turn.into, turn.command]
          : [turn.fileName],
    );
    const images = await own.imagesOf(OCTOBER);
    const kept = (name: string, file = `${name}-${OCTOBER.split('/')[3]}.img`) => [
      `${name}_a`,
      `put ${name}_a ${file}`,
      null,
      images.get(name)!.length,
      sha256(images.get(name)!),
    ];
    expect(turns).toEqual([
      kept('bootloader'),
      ['bootloader', 'again SERIAL'],
      kept('radio'),
      ['bootloader', 'again SERIAL'],
      ['init_boot_a', `put init_boot_a ${imageFileName(patched)}`, null, patched.sizeBytes, patched.sha256],
      kept('boot'),
      ['userspace', null],
      [
        'system_a',
        'put system_a system.img',
        `eterno take ${OCTOBER.split('/')[3]}.zip --image system --out system.img`,
        SYSTEM,
        null,
      ],
      ['bootloader', 'again SERIAL'],
    ]);
    const some = await showAtStep(round, "Writing 'bootloader_a' OKAY\nWriting 'radio_a' OKAY");
    expect(some).toMatchObject({ verdict: 'not-enough', written: ['bootloader_a', 'radio_a'] });
    const all = ['bootloader', 'radio', 'init_boot', 'boot', 'system'];
    await pasteAtStep(round, await version(round), all.map((one) => `Writing '${one}_a' OKAY`).join('\n'));
    expect((await cell(own, 'init_boot'))?.sha256).toBe(patched.sha256);
    expect((await cell(own, 'boot'))?.sha256).toBe(sha256(images.get('boot')!));
  });
});

/** One slot, and download mode for what comes in sets. */
const IN_SETS = {
  profile: {
    slotCount: 1,
    rootPartition: 'boot',
    hasDownload: true,
    hasUserspace: false,
    recoveryHome: 'recovery',
  },
  facts: { downloadMode: 'true' },
} as const;

describe('a firmware set with such a system', () => {
  it('is sent and written part by part', async () => {
    world = await laneWorld({
      ...IN_SETS,
      systemBytes: SYSTEM,
    });
    const round = await begin(world, 'monthly update', { lane: 'firmware-set-patched', target: OCTOBER });
    await walk(world, round, { until: 'write-set-patched' });
    expect((await roundView(round)).passes?.partitions).toEqual(['system']);
    await send(round, { 'october.zip': await world.packageOf(OCTOBER) });
    expect((await roundView(round)).steps.find(({ key }) => key === 'write-set-patched')?.state).toBe('done');
    const stock = (await world.imagesOf(OCTOBER)).get('system')!;
    expect(await onHandset(world, 'system_a')).toBe(sha256(stock));
    expect(
      (await slotCells(world.handset)).find((one) => one.partition === 'system' && one.slot === '-'),
    ).toMatchObject({ sha256: sha256(stock) });
    expect(await incoming(world)).toEqual([]);
    await walk(world, round);
    expect((await see()).state).toMatchObject({
      data: { wipes: 0 },
      running: { build: OCTOBER, rooted: true },
    });
  });
});

describe('a firmware set that is cut in the middle', () => {
  it('leaves the parts before it written, the one on its way in doubt, the rest as it was, and goes in whole the next time', async () => {
    world = await laneWorld(IN_SETS);
    const round = await begin(world, 'monthly update', { lane: 'firmware-set-patched', target: OCTOBER });
    await walk(world, round, { until: 'write-set-patched' });
    const all = [...(await world.imagesOf(OCTOBER)).keys()];
    const lying = async () =>
      Object.fromEntries(
        await Promise.all(all.map(async (one) => [one, await onHandset(world!, `${one}_a`)] as const)),
      );
    const before = await lying();
    world.clock.stop();
    const job = ended(await runStep(round, await version(round)));
    const order: string[] = [];
    // the first part is let through, the cable goes while the second is written
    const writes = async () => {
      const { screen } = await see();
      return screen.kind === 'menu' && screen.busy?.startsWith('writing ') ? screen.busy.slice(8) : null;
    };
    while (order.length < 2) {
      await until(async () => {
        await world!.clock.pass(100);
        return ![null, ...order].includes(await writes());
      });
      order.push((await writes())!);
    }
    await setCable(LANE_PROFILE, false);
    world.clock.go();
    expect(await job).toMatchObject({ state: 'failed', error: { code: 'link-lost' } });
    const after = await lying();
    const cells = (await slotCells(world.handset)).filter(({ slot }) => slot === '-');
    const written = cells.filter(({ sha256: sha }) => sha !== null);
    const doubted = cells.filter(({ verdict }) => verdict === 'unknown').map(({ partition }) => partition);
    expect(written.map(({ partition }) => partition)).toContain(order[0]);
    expect(written.map(({ partition, sha256: sha }) => [partition, sha])).toEqual(
      written.map(({ partition }) => [partition, after[partition]]),
    );
    expect(doubted).toHaveLength(1);
    expect(written.length + 1).toBeLessThan(all.length);
    // what nobody sent is as it was
    const touched = [...written.map(({ partition }) => partition), ...doubted];
    expect(all.filter((one) => after[one] !== before[one] && !touched.includes(one))).toEqual([]);
    expect((await see()).state).toMatchObject({ mode: 'download', builds: { a: SEPTEMBER } });
    await setCable(LANE_PROFILE, true);
    await walk(world, round);
    expect((await see()).state).toMatchObject({
      data: { wipes: 0 },
      running: { build: OCTOBER, rooted: true },
    });
  });
});

describe('a firmware set of several archives', () => {
  it('is given to a tool archive by archive, the patched one in the place of the system’s', async () => {
    world = await laneWorld({
      ...IN_SETS,
      sets: true,
    });
    const round = await begin(world, 'monthly update', { lane: 'firmware-set-patched', target: OCTOBER });
    await walk(world, round, { until: 'write-set-patched' });
    const { hand } = await roundView(round);
    expect(
      hand!.turns.map((turn) => (turn.do === 'part' ? [turn.role, turn.fileName, turn.patched] : turn.do)),
    ).toEqual([
      ['bootloader', 'BL_HT8_user.tar.md5', false],
      ['system', 'AP_HT8_user.tar.md5', true],
      ['modem', 'CP_HT8_user.tar.md5', false],
      ['region-keep', 'HOME_CSC_HT8_user.tar.md5', false],
    ]);
  });
});

async function until(look: () => Promise<boolean>): Promise<void> {
  while (!(await look())) await new Promise((resolve) => setTimeout(resolve, 5));
}
async function runningJob(round: string) {
  for (;;) {
    const job = (await listJobs()).find((one) => one.roundId === round && one.state === 'running');
    if (job) return job;
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
}
