import { afterEach, describe, expect, it } from 'vitest';
import { findImage } from '@/server/repositories/image-repository';
import { roundContext } from '@/server/rounds/round-context';
import { rescueFiles, rescueState } from '@/server/rounds/rescue';
import { pageResponse, rescueResponse } from '@/server/services/pages-service';
import { begin, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { readZip } from '../fixtures/read-zip';
import { sha256 } from '../fixtures/server-world';

/* The rescue page: its files by slot and build, and whether what was downloaded still holds. */

let world: LaneWorld;
afterEach(() => world.end());

const files = async (round: string) =>
  rescueFiles(await roundContext(round)).map(
    ({ partition, slot, build, image }) =>
      `${partition} ${slot} ${build === OCTOBER ? 'October' : 'September'} ${image ? 'here' : 'missing'}`,
  );
const stale = async (round: string) => (await rescueState(await roundContext(round))).stale;

describe('the rescue page of an update in place', () => {
  it('names both slots’ files, and is out of date once the other slot’s stock image is there', async () => {
    world = await laneWorld({ rooted: ['a'], offer: OCTOBER });
    await world.keepPatched(SEPTEMBER);
    const round = await begin(world, 'monthly update', { lane: 'update-in-place-other-slot' });
    expect(await files(round)).toEqual(
      expect.arrayContaining(['init_boot a September here', 'init_boot b October missing']),
    );
    expect(await rescueState(await roundContext(round))).toEqual({ at: null, stale: false });
    const page = await (await pageResponse(round, 'rescue')).text();
    expect(page).toContain('init\\_boot on slot b');
    expect(page).toContain('missing: take it out of the package of this build');
    expect(await stale(round)).toBe(false);
    await walk(world, round, { until: 'start' });
    // the update in place read the other slot's own image out, and kept it
    expect(await files(round)).toEqual(
      expect.arrayContaining(['init_boot a September here', 'init_boot b October here']),
    );
    expect(await stale(round)).toBe(true);
    await pageResponse(round, 'rescue');
    expect(await stale(round)).toBe(false);
  }, 120_000);

  it('carries its files as one ZIP, with their hashes and names', async () => {
    world = await laneWorld({});
    await world.keepImagesOf(SEPTEMBER, ['init_boot']);
    const round = await begin(world, 'first root', { lane: 'one-image-once' });
    const response = await rescueResponse(round);
    const members = await readZip(new Uint8Array(await response.arrayBuffer()));
    const stock = (await world.imagesOf(SEPTEMBER)).get('init_boot')!;
    expect(await findImage(sha256(stock))).not.toBeNull();
    const names = [...members.keys()];
    expect(names.slice(0, 2)).toEqual(['rescue.md', 'SHA256SUMS']);
    const image = names.find((name) => name.endsWith('.img'))!;
    expect(image).toContain(SEPTEMBER.split('/')[3]!);
    expect(sha256(members.get(image)!)).toBe(sha256(stock));
    expect(new TextDecoder().decode(members.get('SHA256SUMS')!)).toBe(`${sha256(stock)}  ${image}\n`);
    expect(new TextDecoder().decode(members.get('rescue.md')!)).toContain(image.replaceAll('_', '\\_'));
    expect((await rescueState(await roundContext(round))).at).not.toBeNull();
  });
});
