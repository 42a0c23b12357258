import { afterEach, describe, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { openPackage } from '@/core/packages/open-package';
import { nodePorts } from '@/platform/node/node-ports';
import { updateHandset } from '@/server/repositories/handset-repository';
import { showAtStep } from '@/server/rounds/by-hand';
import { roundView } from '@/server/rounds/round-view';
import { keepPackage } from '@/server/services/firmware-service';
import { reportSlot, slotCells } from '@/server/services/slot-service';
import { saveCommands } from '@/server/services/vocabulary-service';
import { pasteAtStep } from '../fixtures/at-step';
import type { LaneWorld } from '../fixtures/lane-world';
import { AUGUST, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { begin, see, version, walk } from '../fixtures/lane-walk';
import { sha256 } from '../fixtures/server-world';

/* A package whose own list writes a partition to both slots: so does the round, where both hold the build. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

/** The package of a build, its list naming both slots for some partitions. */
async function keepListing(own: LaneWorld, build: string, both: readonly string[]): Promise<void> {
  const bytes = await own.packageOf(build);
  const { report } = await openPackage(memorySource(bytes, 'hill.zip'), nodePorts);
  await keepPackage({
    fileName: `${build.split('/')[3]}.zip`,
    sizeBytes: bytes.length,
    readBy: 'server',
    report: {
      ...report,
      images: report.images.map((image) => ({
        ...image,
        slots: both.includes(image.partition) ? 'both' : 'one',
      })),
    },
  });
}

/** A round at the write of root's image; slot b holds `other` as it was read. */
async function atTheWrite(other: string | null, both: readonly string[] = ['init_boot']) {
  world = await laneWorld({ builds: { a: SEPTEMBER, b: other ?? SEPTEMBER } });
  await world.keepPatched(SEPTEMBER);
  await keepListing(world, SEPTEMBER, both);
  if (other !== null) {
    const bytes = (await world.imagesOf(other)).get('init_boot')!;
    await world.keepImagesOf(other, ['init_boot']);
    await reportSlot({
      handsetId: world.handset,
      slot: 'b',
      partition: 'init_boot',
      sha256: sha256(bytes),
      certainty: 'read',
      reason: 'read back',
    });
  }
  const round = await begin(world, 'first root', { lane: 'one-image-once' });
  await walk(world, round, { until: 'write-root' });
  return { own: world, round };
}
const titleNow = async (round: string) => {
  const { steps, current } = await roundView(round);
  return steps[current!]!.title;
};
const patchedOn = async (own: LaneWorld) =>
  (await slotCells(own.handset))
    .filter(({ partition, sha256: lies }) => partition === 'init_boot' && lies !== null)
    .map(({ slot, sha256: lies }) => [slot, lies]);

describe('root’s image', () => {
  it('is written to both slots where both hold the build that the list is of', async () => {
    const { own, round } = await atTheWrite(SEPTEMBER);
    expect(await titleNow(round)).toContain('on slots a and b');
    await walk(own, round);
    const { images } = (await see()).state;
    expect(images['init_boot_a']!.patchedBy).not.toBeNull();
    expect(images['init_boot_b']!.sha256).toBe(images['init_boot_a']!.sha256);
    const lies = images['init_boot_a']!.sha256;
    expect(await patchedOn(own)).toEqual([
      ['a', lies],
      ['b', lies],
    ]);
    expect((await roundView(round)).state).toBe('closed');
  });

  it.each([
    ['another build', AUGUST, ['init_boot']],
    ['nobody knows what', null, ['init_boot']],
    ['the same, and the list writes one', SEPTEMBER, ['boot']],
  ] as const)('goes to its own slot only where the other holds %s', async (_, other, both) => {
    const { own, round } = await atTheWrite(other, both);
    const before = (await see()).state.images['init_boot_b']!.sha256;
    expect(await titleNow(round)).not.toContain('slots');
    await walk(own, round);
    expect((await see()).state.images['init_boot_b']!.sha256).toBe(before);
  });

  it('by hand has a command a slot, and is shown by both', async () => {
    const { own, round } = await atTheWrite(SEPTEMBER);
    await updateHandset(own.handset, { link: 'hand', profile: null });
    await saveCommands('posix', { write: 'put {target} {file}' }, 'mytool 1.2');
    const { hand } = await roundView(round);
    expect(hand!.commands.map(({ command }) => command.split(' ')[1])).toEqual([
      'init_boot_a',
      'init_boot_b',
    ]);
    const one = "Writing 'init_boot_a' OKAY";
    expect((await showAtStep(round, one))?.verdict).toBe('not-enough');
    await pasteAtStep(round, await version(round), `${one}\nWriting 'init_boot_b' OKAY`);
    expect((await patchedOn(own)).map(([slot]) => slot)).toEqual(['a', 'b']);
  });
});

describe('an image of a whole build', () => {
  it('goes to both slots where the list says so, the others to the slot of the step', async () => {
    world = await laneWorld({ rooted: ['a'] });
    await world.keepPatched(SEPTEMBER);
    await keepListing(world, OCTOBER, ['boot']);
    const round = await begin(world, 'monthly update', { lane: 'whole-build-then-root' });
    await walk(world, round, { until: 'start' });
    const october = await world.imagesOf(OCTOBER);
    const on = (await see()).state.images;
    expect(on['boot_a']!.sha256).toBe(sha256(october.get('boot')!));
    expect(on['boot_b']!.sha256).toBe(sha256(october.get('boot')!));
    expect(on['radio_a']!.sha256).toBe(sha256(october.get('radio')!));
    expect(on['radio_b']!.sha256).not.toBe(sha256(october.get('radio')!));
  });
});
