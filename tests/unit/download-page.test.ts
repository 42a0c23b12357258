import { stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import { nextBuild } from '@/core/bench/judgements';
import { jobView } from '@/server/services/jobs';
import { cancelJob, jobEnded } from '@/server/services/jobs';
import { downloadPageView, fetchFromPage, lookAtPage } from '@/server/services/download-page';
import { downloadedFile, forgetDownload } from '@/server/services/downloads';
import { needHandset, readBench, readSubject } from '@/server/services/bench-reading';
import { planFor } from '@/server/services/plan-service';
import { recentJobs } from '@/server/repositories/event-repository';
import { calendarView } from '@/server/services/calendar-service';
import type { OfferedPage } from '@/stand-in/download-page';
import { pageFiles } from '@/stand-in/download-page';
import type { Offer } from '../fixtures/download-page';
import { offerPage, startPage } from '../fixtures/download-page';
import { codeOf } from '../fixtures/expect-error';
import { seeded } from '../fixtures/images';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { AUGUST, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { sha256 } from '../fixtures/server-world';

/* A maker's page on this machine: its lines against a handset, files fetched from it, and what comes out there. */

const MIB = 1024 * 1024;
const DAY_MS = 86_400_000;
let world: LaneWorld | null = null;
let closePage: (() => Promise<void>) | null = null;
afterEach(async () => {
  await closePage?.();
  closePage = null;
  await world?.end();
  world = null;
});

async function start(
  offers: readonly Offer[],
  page: Partial<OfferedPage> = {},
  options: LaneOptions = {},
): Promise<LaneWorld> {
  world = await laneWorld(options);
  await offerPage(world.dir, offers, page);
  closePage = (await startPage(world.dir)).close;
  return world;
}

const september = { fingerprint: SEPTEMBER, bytes: seeded(1, 3 * MIB) };
const october = { fingerprint: OCTOBER, bytes: seeded(2, 2 * MIB) };
const hashOf = ({ bytes }: Offer) => sha256(bytes);

async function fetched(hash: string) {
  const job = await fetchFromPage(hash);
  await jobEnded(job.id);
  return (await recentJobs(0)).map(jobView).find(({ id }) => id === job.id)!;
}
const views = async () => (await downloadPageView())!.downloads;
const partPath = (hash: string) => join(world!.dir, 'downloads', `${hash}.part`);
const bytesOf = async (hash: string) =>
  new Uint8Array(await (await downloadedFile(hash, 'x.zip')).arrayBuffer());

describe('the lines of the page', () => {
  it('are held against each handset, its serial too, and it says what it was when it is gone', async () => {
    const own = await start([
      september,
      { ...october, file: 'look.zip', says: { build: 'HC1.260905.O07', fingerprint: '' } },
      {
        ...october,
        file: 'serials.zip',
        says: { build: 'HC1.260905.007', serials: 'ZZ9*', fingerprint: '' },
      },
    ]);
    const page = (await downloadPageView())!;
    const [list] = page.handsets.filter(({ id }) => id === own.handset).map((one) => one.list!);
    expect(page.answers).toBe(true);
    expect(list!.lines.map(({ verdict }) => verdict)).toEqual(['exact', 'look-alike', 'shut out']);
    expect(list!.exact).toBe(0);
    expect(JSON.stringify(page)).not.toContain('HN');
    await closePage!();
    closePage = null;
    const after = (await downloadPageView())!;
    expect([after.answers, after.handsets[0]!.list!.lines.length]).toEqual([false, 3]);
    expect(await codeOf(() => fetchFromPage(hashOf(september)))).toBe('link-lost');
  });

  it('are none where no page runs, and none was ever read', async () => {
    world = await laneWorld();
    expect(await downloadPageView()).toBeNull();
  });
});

describe('a file of the page', () => {
  it('comes whole, its hash is proved, and it goes out as it came', async () => {
    await start([september]);
    expect(await fetched(hashOf(september))).toMatchObject({ state: 'done', doneBytes: 3 * MIB });
    expect(await views()).toMatchObject([{ state: 'whole', have: 3 * MIB, jobId: null }]);
    expect(sha256(await bytesOf(hashOf(september)))).toBe(hashOf(september));
    await forgetDownload(hashOf(september));
    expect(await views()).toEqual([]);
    expect(await codeOf(() => downloadedFile(hashOf(september), 'x.zip'))).toBe('not-found');
  });

  it('that is stopped goes on from where it was, and asks for no byte twice', async () => {
    await start([september], { bytesPerSecond: 2 * MIB });
    const hash = hashOf(september);
    const job = await fetchFromPage(hash);
    expect(await codeOf(() => fetchFromPage(hash))).toBe('conflict');
    for (let have = 0; have === 0;) {
      await new Promise((resolve) => setTimeout(resolve, 20));
      [{ have } = { have: 0 }] = await views();
    }
    cancelJob(job.id);
    await jobEnded(job.id);
    const [stopped] = await views();
    expect(stopped).toMatchObject({ state: 'part', jobId: null });
    expect(stopped!.have).toBeGreaterThan(0);
    expect(stopped!.have).toBeLessThan(3 * MIB);
    // what is there is not looked at again before its end: a wrong byte in it shows that it was kept
    const half = september.bytes.slice(0, stopped!.have);
    half[0]! ^= 1;
    await writeFile(partPath(hash), half);
    const end = await fetched(hash);
    expect(end.error).toMatchObject({ code: 'bad-hash' });
    expect(await views()).toEqual([]);
    expect((await fetched(hash)).state).toBe('done');
  });

  it('goes on behind what is there', async () => {
    await start([september]);
    const hash = hashOf(september);
    await fetched(hash);
    await forgetDownload(hash);
    await writeFile(partPath(hash), september.bytes.slice(0, MIB + 7));
    expect((await fetched(hash)).state).toBe('done');
    expect(sha256(await bytesOf(hash))).toBe(hash);
  });

  it.each([
    ['has another hash than is stated', { sha256: 'a'.repeat(64) }, 'bad-hash'],
    ['ends before its size', { size: 3 * MIB + 1 }, 'truncated'],
    ['is longer than its size', { size: MIB }, 'too-large'],
  ])('that %s is not offered as whole', async (_what, says, code) => {
    await start([{ ...september, says }]);
    const hash = 'sha256' in says ? says.sha256! : hashOf(september);
    expect((await fetched(hash)).error).toMatchObject({ code });
    expect((await views()).some(({ state }) => state === 'whole')).toBe(false);
  });

  it('is fetched from nowhere else: what the page does not list, and no path', async () => {
    const own = await start([september]);
    await writeFile(join(pageFiles(own.dir), 'other.zip'), 'x');
    expect(await codeOf(() => fetchFromPage('b'.repeat(64)))).toBe('not-found');
    const { address, close } = await startPage(own.dir);
    for (const path of ['/files/other.zip', '/files/..%2f..%2feterno.sqlite', '/files/'])
      expect((await fetch(`${address}${path}`)).status, path).toBe(404);
    await close();
    expect(await codeOf(() => downloadedFile('../../eterno.sqlite', 'x'))).toBe('unsafe-path');
  });

  it('keeps what came when the page goes in its middle', async () => {
    const own = await start([september], { bytesPerSecond: 2 * MIB });
    const job = await fetchFromPage(hashOf(september));
    while (((await stat(partPath(hashOf(september))).catch(() => null))?.size ?? 0) === 0)
      await new Promise((resolve) => setTimeout(resolve, 20));
    await closePage!();
    await jobEnded(job.id);
    closePage = (await startPage(own.dir)).close;
    expect(await views()).toMatchObject([{ state: 'part' }]);
    expect((await fetched(hashOf(september))).state).toBe('done');
  });
});

describe('a build that comes out there', () => {
  const newer = OCTOBER.replace('261005', '261105');
  const next = async (own: LaneWorld) =>
    nextBuild(await readSubject(await needHandset(own.handset)), await readBench())?.fingerprint ?? null;

  it('stands on the bench and in the calendar from then on, once', async () => {
    const own = await start([
      september,
      { ...october, fingerprint: newer, says: { published: '2026-11-06' } },
    ]);
    const before = await next(own);
    await lookAtPage();
    await lookAtPage();
    expect(before).not.toBe(newer);
    expect((await readBench()).builds.filter(({ fingerprint }) => fingerprint === newer)).toHaveLength(1);
    const { items } = await calendarView(Date.parse('2026-11-10'));
    expect(items.map(({ what }) => what).join()).toContain('HC1.261105');
  });

  it('of another product is none of this bench', async () => {
    await start([{ ...october, fingerprint: newer.replaceAll('hill_eu', 'dale_eu') }]);
    await lookAtPage();
    expect((await readBench()).builds.some(({ product }) => product === 'dale_eu')).toBe(false);
  });
});

describe('what can be had', () => {
  const plan = async (own: LaneWorld) => {
    const planned = await planFor(own.handset, {
      goal: 'first root',
      target: null,
      limits: { computer: true, wipeAllowed: false, keepFuse: false },
    });
    if (typeof planned === 'string') throw new Error(planned);
    return planned;
  };

  it.each([
    ['offers the installed build', [september, october], true],
    ['offers another month only', [october], false],
    [
      'speaks of another product only',
      [{ ...october, fingerprint: OCTOBER.replaceAll('hill_eu', 'dale_eu') }],
      true,
    ],
  ])('where the page %s: a first root of it is a way: %s', async (_what, offers, isWay) => {
    const own = await start(offers);
    await lookAtPage();
    const { plans, context } = await plan(own);
    expect(context.fullPackages.includes(SEPTEMBER)).toBe(isWay);
    expect(plans.plans.length > 0).toBe(isWay);
    if (!isWay)
      expect(plans.others.map(({ reason }) => reason).join()).toMatch(/No full package of HC1.260905/);
  });

  it('is told by no page that was read weeks ago', async () => {
    const own = await start([october]);
    await lookAtPage();
    await own.clock.pass(13 * DAY_MS);
    expect((await readBench()).offered).not.toBeNull();
    await own.clock.pass(2 * DAY_MS);
    expect((await readBench()).offered).toBeNull();
    expect((await plan(own)).context.fullPackages).toContain(SEPTEMBER);
  });

  it('is what was opened here too, whatever the page says', async () => {
    const own = await start([october]);
    await lookAtPage();
    await own.keepPackageOf(SEPTEMBER);
    expect((await plan(own)).plans.plans.length).toBeGreaterThan(0);
    expect((await plan(own)).context.fullPackages).not.toContain(AUGUST);
  });
});
