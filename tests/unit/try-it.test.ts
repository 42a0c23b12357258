import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import type { PlanContext } from '@/core/planning/context';
import type { LanePlan } from '@/core/planning/plan-round';
import type { Occasion } from '@/core/practice/surprises';
import { OCCASIONS, USUAL_SLIPS } from '@/core/practice/surprises';
import { DEEDS, FROM_OUTSIDE } from '@/core/steps/deeds';
import { TRY_IT } from '@/core/try-it/works';
import { TROUBLE_WORLD } from '@/core/practice/scene';
import { HIDDEN_FAULT_IDS } from '@/core/words/hidden-faults';
import { isWay, makeWayWorld } from '@/demo/way-world';
import { at, DEMO_NOW } from '@/demo/world';
import { putHiddenFault } from '@/stand-in/hidden-fault';
import { StandInStore } from '@/stand-in/stand-in-store';
import { demoMarker } from '@/server/db/data-dir';
import { listHandsets } from '@/server/repositories/handset-repository';
import { planFor } from '@/server/services/plan-service';
import { isDemo, tryItView } from '@/server/services/try-it-service';
import { writeFileWhole } from '@/platform/node/file-sink';
import { codeOf } from '../fixtures/expect-error';
import { freshServer } from '../fixtures/server-world';
import { WORKS } from '../fixtures/work-table';

/* The demo set to the beginning of a piece of work: the page that lists them, and a world of each class. */

let server: Awaited<ReturnType<typeof freshServer>>;
afterEach(() => server.end());

async function worldOf(n: number): Promise<string> {
  server = await freshServer();
  const packages = join(server.dir, 'packages');
  await mkdir(packages);
  await makeWayWorld(n, server.dir, packages);
  return (await listHandsets())[0]!.id;
}

/** What of the usual slips the steps of a plan give occasion to. */
function occasionsIn({ steps }: LanePlan, { profile, start }: PlanContext): Occasion[] {
  const keys = steps.map(({ action }) => action);
  const slips = keys.flatMap((key) => DEEDS[key].slips ?? []);
  const has = (...wanted: readonly string[]) => keys.some((key) => wanted.includes(key));
  const offDisk = steps.some(
    ({ after: { running, images, active, insideRoot } }) =>
      running?.rooted === true &&
      insideRoot !== 'lasting' &&
      images[`${profile.rootPartition}_${active}`]?.patchedBy === null,
  );
  const occurs: Readonly<Record<Occasion, boolean>> = {
    'restarts-itself': slips.includes('early restart') || (offDisk && start.running?.rooted !== true),
    'slot-changed': slips.includes('wrong slot') && profile.slotCount === 2,
    'cable-out': has(...FROM_OUTSIDE, 'sideload'),
    'prompt-gone': has('prove-root'),
  };
  return OCCASIONS.filter((occasion) => occurs[occasion]);
}

describe('the pieces of work to try', () => {
  it('are those that are walked to their end, each with a world to begin from and a lane of its own', async () => {
    server = await freshServer();
    expect(TRY_IT.map(({ n }) => n)).toEqual(WORKS.map(({ n }) => n).sort((a, b) => a - b));
    for (const { n, goal, lane } of TRY_IT) {
      expect(isWay(n), String(n)).toBe(true);
      expect(WORKS.find((work) => work.n === n)!.rounds[0], String(n)).toMatchObject({ goal, lane });
    }
    expect(await codeOf(() => makeWayWorld(99, server.dir, server.dir))).toBe('usage');
  });

  it('are offered only where the demo made the world, and begun only in the world that is there', async () => {
    server = await freshServer();
    expect([await isDemo(), await tryItView()]).toEqual([false, null]);
    await writeFileWhole(demoMarker(), new TextEncoder().encode('{"version":1}\n'));
    const all = (await tryItView())!;
    expect(all.way).toBeNull();
    expect(all.works.every(({ begin }) => begin === null)).toBe(true);
  });

  it.each(TRY_IT)('$n can be planned from its beginning, with its usual slips', async ({ n }) => {
    const work = TRY_IT.find((one) => one.n === n)!;
    const handset = await worldOf(n);
    await writeFileWhole(demoMarker(), new TextEncoder().encode(`{"version":1,"way":${n}}\n`));
    const { works } = (await tryItView())!;
    const begin = works.filter((one) => one.begin !== null);
    expect(begin.map((one) => one.n)).toEqual([n]);
    expect(begin[0]!.begin).toContain(handset);
    const planned = await planFor(handset, { goal: work.goal, target: null, limits: work.limits });
    if (typeof planned === 'string') throw new Error(planned);
    const plan = planned.plans.plans.find(({ lane }) => lane.id === work.lane)!;
    expect(plan, work.lane).toBeDefined();
    expect([...USUAL_SLIPS[n]!].sort()).toEqual(occasionsIn(plan, planned.context).sort());
  });

  it('and the world of trouble can have every fault that hides', async () => {
    await worldOf(TROUBLE_WORLD);
    expect(TRY_IT.map(({ n }) => n)).not.toContain(TROUBLE_WORLD);
    const [handset] = await listHandsets();
    const store = new StandInStore(join(server.dir, 'stand-in', handset!.profile!));
    const of = { profile: await store.readProfile(), state: await store.readState(), store };
    for (const fault of HIDDEN_FAULT_IDS)
      expect(await putHiddenFault(of, fault), fault).not.toEqual(of.state);
  });

  it('has files of months ago on its handset where it is practised, and none else', async () => {
    const [first] = TRY_IT;
    await worldOf(first!.n);
    const { profile } = (await listHandsets())[0]!;
    const store = () => new StandInStore(join(server.dir, 'stand-in', profile!));
    expect(await store().listFiles('/storage')).toEqual([]);
    await server.end();
    server = await freshServer();
    await mkdir(join(server.dir, 'packages'));
    await makeWayWorld(first!.n, server.dir, join(server.dir, 'packages'), true);
    const files = await store().listFiles('/storage');
    expect(files.map(({ path }) => path.split('/').at(-1)).sort()).toEqual([
      'boot-patched-1.img',
      'boot-patched.img',
      'boot.img',
      'kit.zip',
    ]);
    expect(Math.max(...files.map(({ at: when }) => when))).toBeLessThan(at(DEMO_NOW));
  });
});
