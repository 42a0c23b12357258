import { readFile, writeFile } from 'node:fs/promises';
import { afterEach, describe, expect, it } from 'vitest';
import { GET } from '@/app/api/images/[sha]/route';
import { roundContext, imageOf } from '@/server/rounds/round-context';
import { runStep } from '@/server/rounds/over-link';
import { slotCells } from '@/server/services/slot-service';
import { vaultPath } from '@/server/vault/vault';
import { ended } from '../fixtures/ended-job';
import type { LaneWorld } from '../fixtures/lane-world';
import { laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { begin, see, stepNow, version, walk } from '../fixtures/lane-walk';

/* A file that rotted in the vault is named and not written, whatever the way. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});
async function rot(sha256: string): Promise<() => Promise<void>> {
  const path = vaultPath('images', sha256);
  const whole = await readFile(path);
  await writeFile(
    path,
    whole.map((byte, i) => (i > 5000 && i < 5064 ? byte ^ 0x5a : byte)),
  );
  return () => writeFile(path, whole);
}
/** Runs the step to do now with its image rotten; then with the file as it was. */
async function runRotten(round: string, sha256: string): Promise<void> {
  const [images, cells] = [(await see()).state.images, await slotCells(world!.handset)];
  const mend = await rot(sha256);
  const job = await ended(await runStep(round, await version(round)));
  expect(job).toMatchObject({ state: 'failed', error: { code: 'bad-hash' } });
  expect((await see()).state.images).toEqual(images);
  expect(await slotCells(world!.handset)).toEqual(cells);
  expect((await stepNow(round))!.evidence.map(({ what }) => what).join()).toContain('nothing was written');
  await mend();
}

describe('an image that was damaged in the vault', () => {
  it('is not written from the bootloader', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root');
    await walk(world, round, { until: 'write-root' });
    const context = await roundContext(round);
    const image = imageOf(
      context,
      context.steps.find(({ key }) => key === 'write-root')!,
    )!;
    await runRotten(round, image.sha256);
    await walk(world, round, { until: 'prove-root' });
    expect((await see()).state.running?.rooted).toBe(true);
  });
  it('is not started from memory', async () => {
    world = await laneWorld({
      profile: { rootPartition: 'boot', startsOnce: true },
      facts: { startsOnce: 'true' },
    });
    const round = await begin(world, 'first root', { lane: 'start-once-make-lasting' });
    await walk(world, round, { until: 'start-once' });
    const hash = await world.keepPatched(SEPTEMBER);
    const mend = await rot(hash);
    expect(await ended(await runStep(round, await version(round)))).toMatchObject({
      state: 'failed',
      error: { code: 'bad-hash' },
    });
    expect((await see()).state.mode).toBe('bootloader');
    await mend();
  });
  it('is not written as part of a whole build', async () => {
    world = await laneWorld({ rooted: ['a'] });
    const round = await begin(world, 'monthly update', { lane: 'whole-build-patched', target: OCTOBER });
    await walk(world, round, { until: 'write-build-patched' });
    const { bench } = await roundContext(round);
    const first = bench.images.find(
      (image) => image.role === 'stock' && image.partition === 'bootloader' && image.fingerprint === OCTOBER,
    )!;
    await runRotten(round, first.sha256);
  });
  it('is not handed out either', async () => {
    world = await laneWorld();
    const hash = await world.keepPatched(SEPTEMBER);
    const ask = () =>
      GET(new Request(`http://127.0.0.1/api/images/${hash}`, { headers: { host: '127.0.0.1' } }), {
        params: Promise.resolve({ sha: hash }),
      });
    expect((await ask()).status).toBe(200);
    await rot(hash);
    const refused = await ask();
    expect(refused.status).toBe(400);
    expect(((await refused.json()) as { error: { code: string } }).error.code).toBe('bad-hash');
  });
});
