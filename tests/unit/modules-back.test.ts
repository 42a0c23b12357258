import { afterEach, describe, expect, it } from 'vitest';
import { modulesLoaded } from '@/core/handset/state';
import { listEvents } from '@/server/repositories/event-repository';
import { insertFacts, updateHandset } from '@/server/repositories/handset-repository';
import { insertModuleTrials, listModuleTrials } from '@/server/repositories/module-repository';
import { knownFacts } from '@/server/services/fact-service';
import { reportBatch } from '@/server/rounds/by-hand';
import { modulesView, noteModuleTrial, storeModule } from '@/server/services/module-service';
import { planFor } from '@/server/services/plan-service';
import { roundView } from '@/server/rounds/round-view';
import { codeOf } from '../fixtures/expect-error';
import { zipBytes } from '../fixtures/images';
import { itRestarted } from '@/server/rounds/over-link';
import { begin, see, seen, stepNow, touch, version, walk } from '../fixtures/lane-walk';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { pieces, sha256 } from '../fixtures/server-world';
import { returnState } from '@/server/rounds/module-return';
import { roundContext } from '@/server/rounds/round-context';
import { listBuilds } from '@/server/repositories/image-repository';

/*
 * Modules through an update: off by chance, back in batches, the one that breaks it named, on a handset that
 * really loops.
 */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

const IDS = ['hosts', 'lantern', 'torch', 'trail-fonts'];
const FILES: Readonly<Record<string, string>> = {
  hosts: 'system/etc/hosts',
  lantern: 'system/etc/lantern.conf',
  torch: 'vendor/lib/modules/torch.ko',
  'trail-fonts': 'system/fonts/trail.ttf',
};

async function shelve(id: string, version = '1.0', path = FILES[id]!): Promise<void> {
  const bytes = await zipBytes({ 'module.prop': `id=${id}\nname=${id}\nversion=${version}\n`, [path]: id });
  await storeModule(sha256(bytes), pieces(bytes), `${id}.zip`);
}

async function withModules(options: LaneOptions = {}): Promise<LaneWorld> {
  const made = await laneWorld({
    rooted: ['a'],
    offer: OCTOBER,
    ...options,
    // its kit rests all modules after so many failed starts
    profile: { restsModulesAfter: 3, ...options.profile },
    state: { modules: { on: true, ids: IDS }, ...options.state },
  });
  await insertFacts(made.handset, [{ key: 'modules', value: IDS.join(', ') }], {
    source: 'link',
    witness: 'system',
    at: Date.now(),
  });
  for (const id of IDS) await shelve(id);
  await made.keepImagesOf(SEPTEMBER, ['init_boot']);
  await made.keepPatched(SEPTEMBER);
  return made;
}
const outcomesOf = async (build: string) =>
  Object.fromEntries(
    (await listModuleTrials())
      .filter((trial) => trial.fingerprint === build)
      .map(({ module, outcome }) => [module, outcome]),
  );

describe('an update with modules', () => {
  it('switches off what is risky, and back on in one batch where nothing breaks', async () => {
    world = await withModules();
    const round = await begin(world, 'monthly update', { lane: 'update-in-place-other-slot' });
    const walked = await walk(world, round);
    expect(walked).toContain('modules-off');
    expect(walked.slice(walked.indexOf('modules-off'))).toEqual(
      expect.arrayContaining(['modules-seen-off', 'take-update']),
    );
    expect(walked.indexOf('modules-seen-off')).toBeLessThan(walked.indexOf('take-update'));
    const { steps, state } = await roundView(round);
    expect(
      steps
        .find((step) => step.key === 'modules-off')!
        .evidence.map(({ what }) => what)
        .join(' '),
    ).toMatch(/torch.*: off.*trail-fonts.*: left on/);
    expect(state).toBe('closed');
    const { state: handset } = await see();
    expect(handset).toMatchObject({ running: { rooted: true, build: OCTOBER } });
    expect(modulesLoaded(handset.modules)).toEqual(IDS);
    expect((await outcomesOf(OCTOBER))['torch']).toBe('worked');
  });

  it('goes no further with one that is on again after the restart', async () => {
    world = await withModules({ profile: { stubbornModules: ['torch'] } });
    const round = await begin(world, 'monthly update', { lane: 'update-in-place-other-slot' });
    expect((await walk(world, round)).at(-1)).toBe('modules-seen-off');
    const { steps, current } = await roundView(round);
    expect(steps[current!]).toMatchObject({ key: 'modules-seen-off', state: 'failed' });
    expect(modulesLoaded((await see()).state.modules)).toContain('torch');
    expect((await see()).state).toMatchObject({ update: null, running: { build: SEPTEMBER } });
  });

  it('names the one that loops, keeps it off, and has it in the next judgement', async () => {
    world = await withModules({ profile: { badModules: [{ id: 'torch', build: OCTOBER }] } });
    const round = await begin(world, 'monthly update', { lane: 'update-in-place-other-slot' });
    await walk(world, round);
    const view = await roundView(round);
    expect(view.state).toBe('closed');
    const { state } = await see();
    expect(state).toMatchObject({ mode: 'system', running: { rooted: true, build: OCTOBER } });
    expect(modulesLoaded(state.modules)).toEqual(['hosts', 'lantern', 'trail-fonts']);
    expect(await outcomesOf(OCTOBER)).toMatchObject({ torch: 'looped' });
    expect((await listEvents({ kind: 'module-batch' })).length).toBeGreaterThan(0);
    expect(view.steps.find((step) => step.key === 'modules-on')!.evidence.at(-1)!.what).toContain(
      'stays off, because it loops on this build: torch',
    );
    const { before } = await modulesView(world.handset, 'none', 0.05);
    expect(before!.modules.find((one) => one.id === 'torch')).toMatchObject({ off: true, loopedHere: true });
  });

  it('leaves what looped on the very build out of the batches', async () => {
    world = await withModules({ profile: { badModules: [{ id: 'torch', build: OCTOBER }] } });
    await insertModuleTrials([
      {
        module: 'torch',
        moduleVersion: '1.0',
        fingerprint: OCTOBER,
        handsetId: null,
        roundId: null,
        outcome: 'looped',
        note: 'on Ridge',
        at: 1,
      },
    ]);
    const round = await begin(world, 'monthly update', { lane: 'update-in-place-other-slot' });
    await walk(world, round);
    const { steps, state } = await roundView(round);
    expect(state).toBe('closed');
    const said = steps.find((step) => step.key === 'modules-on')!.evidence.map(({ what }) => what);
    expect(said.join(' ')).not.toContain('looped, and');
    expect(said.at(-1)).toContain('torch');
  });

  it('goes by what others saw, and not by what this round itself has just tried', async () => {
    world = await withModules();
    const round = await begin(world, 'monthly update', { lane: 'update-in-place-other-slot' });
    await walk(world, round, { until: 'modules-on' });
    const waiting = async () => {
      const { state, stays } = await returnState(await roundContext(round));
      return [state.free.map(({ id }) => id).sort(), stays];
    };
    const looped = { module: 'torch', moduleVersion: '1.0', fingerprint: OCTOBER, handsetId: null } as const;
    expect(await waiting()).toEqual([['torch'], []]);
    await insertModuleTrials([{ ...looped, roundId: round, outcome: 'looped', note: '', at: 1 }]);
    expect(await waiting()).toEqual([['torch'], []]);
    await insertModuleTrials([{ ...looped, roundId: null, outcome: 'looped', note: '', at: 2 }]);
    expect(await waiting()).toEqual([[], ['torch']]);
  });

  it('after a restart too early they still come back, with root, on the build that runs then', async () => {
    world = await withModules();
    const round = await begin(world, 'monthly update', { lane: 'update-in-place-other-slot' });
    await walk(world, round, { until: 'patch-other-slot' });
    await seen(
      'its offer to restart',
      ({ screen }) => screen.kind === 'system' && screen.touches.some(({ id }) => id === 'restart now'),
    );
    await touch('restart now');
    await seen(
      'the new build without root',
      (view) => view.state.mode === 'system' && view.state.running?.build === OCTOBER,
    );
    await itRestarted(round, await version(round));
    const { steps } = await roundView(round);
    expect(steps.map((step) => step.key).filter((key) => key === 'modules-on')).toHaveLength(1);
    await walk(world, round);
    expect((await roundView(round)).state).toBe('closed');
    const { state } = await see();
    expect(state.running).toMatchObject({ rooted: true, build: OCTOBER });
    expect(modulesLoaded(state.modules)).toEqual(IDS);
  });

  it.each([
    [0.9, []],
    [0.001, IDS],
  ])('switches off those over the limit that the person named: %d', async (modulesLimit, off) => {
    world = await withModules();
    const limits = {
      computer: true,
      wipeAllowed: false,
      keepFuse: false,
      modules: 'by chance' as const,
      modulesLimit,
    };
    const planned = await planFor(world.handset, { goal: 'monthly update', target: OCTOBER, limits });
    if (typeof planned === 'string') throw new Error(planned);
    expect([...planned.context.modulesOff!].sort()).toEqual(off);
    const { before } = await modulesView(world.handset, 'by chance', modulesLimit);
    expect(before!.modules.flatMap((one) => (one.off ? [one.id] : [])).sort()).toEqual(off);
  });

  it('shows the builds of a product from the oldest to the newest', async () => {
    world = await withModules();
    const { matrix } = await modulesView(world.handset, 'by chance', 0.05);
    const known = await listBuilds();
    const outOf = (fingerprint: string) =>
      known.find((build) => build.fingerprint === fingerprint)!.publishedAt;
    const products = [...new Set(matrix.columns.map(({ product }) => product))];
    expect(matrix.columns.length).toBeGreaterThan(2);
    for (const product of products) {
      const times = matrix.columns
        .filter((column) => column.product === product)
        .map(({ fingerprint }) => outOf(fingerprint));
      expect(times).toEqual([...times].sort((a, b) => a - b));
      expect(new Set(times).size).toBe(times.length);
    }
  });

  it('judges the version that is on the handset, not a newer one on the shelf', async () => {
    world = await withModules({ state: { modules: { on: true, ids: IDS, versions: { torch: '1.0' } } } });
    await insertModuleTrials([
      {
        module: 'torch',
        moduleVersion: '1.0',
        fingerprint: OCTOBER,
        handsetId: null,
        roundId: null,
        outcome: 'looped',
        note: 'on Ridge',
        at: 1,
      },
    ]);
    await shelve('torch', '2.0');
    const torch = async () =>
      (await modulesView(world!.handset, 'by chance', 0.05)).before!.modules.find(
        ({ id }) => id === 'torch',
      )!;
    // it did not tell a version: what is newest here is taken for it
    expect(await torch()).toMatchObject({ version: null, readAs: null, loopedHere: false });
    const round = await begin(world, 'monthly update', { lane: 'update-in-place-other-slot' });
    await walk(world, round, { until: 'take-update' });
    expect((await knownFacts(world.handset)).value('modules')).toBe('hosts, lantern, torch 1.0, trail-fonts');
    expect(await torch()).toMatchObject({ version: '1.0', readAs: null, loopedHere: true });
    const shelved = async () =>
      (await modulesView(world!.handset, 'by chance')).shelf
        .filter(({ id }) => id === 'torch')
        .map((row) => [row.version, row.on.map((one) => one.otherVersion)])
        .sort();
    expect(await shelved()).toEqual([
      ['1.0', [null]],
      ['2.0', []],
    ]);
    await insertFacts(world.handset, [{ key: 'modules', value: 'torch 1.5' }], {
      source: 'link',
      witness: 'system',
      // later than what was read in the round
      at: Date.now() + 3_600_000,
    });
    expect(await torch()).toMatchObject({ version: '1.5', readAs: '2.0', loopedHere: false });
    expect(await shelved()).toEqual([
      ['1.0', []],
      ['2.0', ['1.5']],
    ]);
    // what is on the handset comes first
    expect((await modulesView(world.handset, 'by chance')).shelf[0]).toMatchObject({
      id: 'torch',
      version: '2.0',
    });
  });

  it('a trial of a handset that is told by hand speaks of the version on it', async () => {
    world = await withModules();
    await insertFacts(world.handset, [{ key: 'modules', value: 'torch 0.4, hosts' }], {
      source: 'link',
      witness: 'system',
      at: Date.now(),
    });
    const trial = {
      moduleVersion: null,
      fingerprint: OCTOBER,
      handsetId: world.handset,
      outcome: 'worked' as const,
      note: '',
    };
    await noteModuleTrial({ module: 'torch', ...trial });
    await noteModuleTrial({ module: 'hosts', ...trial });
    expect(
      (await listModuleTrials()).map(({ module, moduleVersion }) => [module, moduleVersion]).sort(),
    ).toEqual([
      ['hosts', null],
      ['torch', '0.4'],
    ]);
  });

  it('with none to be off has no such step', async () => {
    world = await withModules();
    const limits = { computer: true, wipeAllowed: false, keepFuse: false, modules: 'none' as const };
    const planned = await planFor(world.handset, { goal: 'monthly update', target: OCTOBER, limits });
    if (typeof planned === 'string') throw new Error(planned);
    const plan = planned.plans.plans.find((one) => one.lane.id === 'update-in-place-other-slot')!;
    expect(plan.steps.map((step) => step.action)).not.toContain('modules-off');
  });

  it('by hand: what each start came to is said, and the culprit named all the same', async () => {
    world = await withModules();
    const judged = (await modulesView(world.handset, 'by chance', 0.05)).before!.modules.find(
      (one) => one.id === 'torch',
    )!;
    const round = await begin(world, 'monthly update', { lane: 'update-in-place-other-slot' });
    await walk(world, round, { until: 'modules-on' });
    await updateHandset(world.handset, { link: 'hand', profile: null });
    const first = (await roundView(round)).comingBack!;
    expect(first.next!.batch.length).toBeGreaterThan(0);
    // the same chance as before the update: it is the step between the builds that may break it
    expect(1 - first.next!.goesWell).toBeCloseTo(judged.mean, 6);
    await reportBatch(round, await version(round), 'looped');
    for (let i = 0; (await stepNow(round))!.key === 'modules-on' && i < 12; i += 1) {
      const { comingBack } = await roundView(round);
      await reportBatch(
        round,
        await version(round),
        comingBack!.nextNames.includes('torch') ? 'looped' : 'started',
      );
    }
    expect(await outcomesOf(OCTOBER)).toMatchObject({ torch: 'looped' });
    expect(await codeOf(async () => reportBatch(round, await version(round), 'started'))).toBe('conflict');
  });
});

describe('the shelf', () => {
  it('reads scope, clashes and evidence, and keeps nothing of what is no module', async () => {
    world = await withModules();
    await shelve('torch', '1.1', 'system/etc/lantern.conf');
    const view = await modulesView(world.handset, 'all', 0.05);
    expect(view.shelf.find((one) => one.id === 'hosts')!.scopes[0]!.scope).toBe('host list');
    expect(view.clashes).toEqual([{ path: '/system/etc/lantern.conf', modules: ['lantern', 'torch'] }]);
    expect(view.matrix.rows.map((row) => row.kind)).toContain('kit');
    expect(view.before!.back!.batch.length).toBeGreaterThan(0);
    const strange = await zipBytes({ 'readme.txt': 'x' });
    expect(await codeOf(() => storeModule(sha256(strange), pieces(strange), 'x.zip'))).toBe('bad-magic');
    expect((await modulesView(null, 'all', 0.05)).shelf).toHaveLength(5);
  });
});
