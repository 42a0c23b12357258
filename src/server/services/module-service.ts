import 'server-only';
import type { KeptModule } from '@/core/bench/bench';
import { rm } from 'node:fs/promises';
import type { ModulesView, ModuleView } from '@/contracts/module-view';
import { EternoError } from '@/core/errors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { beginBringBack, costsWith, nextBatch } from '@/core/modules/bring-back';
import { clashesOf } from '@/core/modules/clashes';
import { MODULE_LIMITS, readModule } from '@/core/modules/read-module';
import type { Caution } from '@/core/modules/switch-off';
import { PLAIN_LIMIT, switchOff } from '@/core/modules/switch-off';
import { nodePorts } from '@/platform/node/node-ports';
import type { ModuleTrialRow } from '../db/models';
import { insertModuleTrials, listModules, recordModule } from '../repositories/module-repository';
import { openInVault, putInVault, vaultPath } from '../vault/vault';
import { needHandset, readBench, readSubject, readSubjects } from './bench-reading';
import { now } from './clock';
import type { Bench } from '@/core/bench/bench';
import type { KnownHandset } from './bench-reading';
import { kitItem, kitOnIt, nextBuild, rootOf } from '@/core/bench/judgements';
import { oneAtATime } from './one-at-a-time';
import { judgeModules, moduleIdsOf, modulesOf, shelvedModule } from '@/core/bench/modules-judged';

/**
 * Takes a module's ZIP into the vault; what it holds is read from it here.
 * @throws {EternoError} what reading it throws; nothing is kept then
 */
export function storeModule(
  sha256: string,
  body: AsyncIterable<Uint8Array>,
  fileName: string,
): Promise<KeptModule> {
  return oneAtATime(`module ${sha256}`, () => keepModule(sha256, body, fileName));
}

async function keepModule(
  sha256: string,
  body: AsyncIterable<Uint8Array>,
  fileName: string,
): Promise<KeptModule> {
  const sizeBytes = await putInVault('modules', sha256, body, MODULE_LIMITS.zipBytes);
  const source = await openInVault('modules', sha256);
  try {
    const facts = await readModule(source, nodePorts);
    const { id, name, version, versionCode } = facts;
    await recordModule({
      sha256,
      moduleId: id,
      name,
      version,
      versionCode,
      facts,
      fileName,
      sizeBytes,
      addedAt: now(),
    });
  } catch (thrown) {
    if (!(await listModules()).some((row) => row.sha256 === sha256))
      await rm(/*turbopackIgnore: true*/ vaultPath('modules', sha256), { force: true });
    throw thrown;
  } finally {
    await source.close();
  }
  return (await listModules()).find((row) => row.sha256 === sha256)!;
}

/**
 * How a module did on a build, told by the person; of a handset, in the version that is on it.
 * @throws {EternoError} `not-found` for a build that nobody knows
 */
export async function noteModuleTrial(trial: Omit<ModuleTrialRow, 'id' | 'at' | 'roundId'>): Promise<void> {
  const { builds } = await readBench();
  if (!builds.some((build) => build.fingerprint === trial.fingerprint))
    throw new EternoError('not-found', 'This build is not known here.');
  const subject = trial.handsetId === null ? null : await readSubject(await needHandset(trial.handsetId));
  const installed = subject && modulesOf(subject).find(({ id }) => id === trial.module)?.version;
  await insertModuleTrials([
    { ...trial, moduleVersion: trial.moduleVersion ?? installed ?? null, roundId: null, at: now() },
  ]);
}

const WEIGHT: Readonly<Record<ModuleTrialRow['outcome'], number>> = { looped: 3, misbehaved: 2, worked: 1 };
interface Tried {
  readonly fingerprint: string;
  readonly outcome: ModuleTrialRow['outcome'];
  readonly note: string;
  readonly at: number;
}

/** One cell a build: the worst that was seen there, and how often it was tried. */
function cellsOf(trials: readonly Tried[]): ModulesView['matrix']['rows'][number]['cells'] {
  const cells: Record<
    string,
    { outcome: ModuleTrialRow['outcome']; trials: number; note: string; at: number }
  > = {};
  for (const { fingerprint, outcome, note, at } of trials) {
    const held = cells[fingerprint];
    const worse = !held || WEIGHT[outcome] > WEIGHT[held.outcome];
    cells[fingerprint] = {
      outcome: worse ? outcome : held.outcome,
      trials: (held?.trials ?? 0) + 1,
      note: worse ? note : held.note,
      at: Math.max(at, held?.at ?? 0),
    };
  }
  return cells;
}

function matrixOf(bench: Bench, subjects: readonly KnownHandset[]): ModulesView['matrix'] {
  const ids = [
    ...new Set([
      ...bench.modules.map((row) => row.moduleId),
      ...subjects.flatMap(moduleIdsOf),
      ...bench.moduleTrials.map((one) => one.module),
    ]),
  ].sort();
  const trialsOf = (shelf: 'kit' | 'recovery', item: string) =>
    bench.trials.filter((trial) => trial.shelf === shelf && trial.item === item);
  const kits = bench.kits.map((kit) => ({
    kind: 'kit' as const,
    id: kitItem(kit),
    name: `${kit.name} ${kit.version}`,
    cells: cellsOf(trialsOf('kit', kitItem(kit))),
  }));
  const recoveries = bench.recoveries.map((row) => ({
    kind: 'recovery' as const,
    id: row.id,
    name: `${row.name} ${row.version}`,
    cells: cellsOf(trialsOf('recovery', row.id)),
  }));
  const modules = ids.map((id) => ({
    kind: 'module' as const,
    id,
    name: shelvedModule(bench, id)?.name ?? id,
    cells: cellsOf(bench.moduleTrials.filter((trial) => trial.module === id)),
  }));
  const columns = [...bench.builds]
    .sort((a, b) => a.product.localeCompare(b.product) || a.publishedAt - b.publishedAt)
    .map(({ fingerprint, buildId, product }) => ({ fingerprint, buildId, product }));
  return { columns, rows: [...kits, ...recoveries, ...modules] };
}

function beforeUpdate(
  bench: Bench,
  subject: KnownHandset,
  caution: Caution,
  limit: number,
): ModulesView['before'] {
  const installed = subject.facts.typed.fingerprint;
  const own = modulesOf(subject);
  if (installed === null || own.length === 0) return null;
  const next = nextBuild(subject, bench);
  const to = next?.fingerprint ?? installed;
  const { size, kernelChanged, modules } = judgeModules(bench, own, installed, to);
  const off = switchOff(modules, caution, limit);
  const coming = modules.filter(
    ({ id, chance }) => !chance.loopedHere && off.some((one) => one.id === id && one.off),
  );
  const { partition } = rootOf(subject, bench);
  const restsAfter = kitOnIt(subject, bench, partition)?.restsAfter ?? null;
  const first = nextBatch(
    beginBringBack(coming.map(({ id, chance }) => ({ id, chance: chance.mean }))),
    costsWith(restsAfter),
  );
  return {
    from: splitFingerprint(installed)?.id ?? installed,
    to: splitFingerprint(to)?.id ?? to,
    isUpdate: next !== null,
    size,
    kernelChanged,
    restsAfter,
    modules: modules
      .map(({ id, chance }) => {
        const version = own.find((one) => one.id === id)?.version ?? null;
        const shelved = shelvedModule(bench, id, version);
        // what lies on the shelf of it is not what is on the handset
        const readAs = shelved && version !== null && shelved.version !== version ? shelved.version : null;
        return {
          ...off.find((one) => one.id === id)!,
          ...chance,
          name: shelved?.name ?? id,
          version,
          readAs,
        };
      })
      .sort((a, b) => b.mean - a.mean),
    back: first,
  };
}

const moduleView = (row: KeptModule, on: ModuleView['on']): ModuleView => {
  const { scopes, paths, scripts, description } = row.facts;
  const { sha256, moduleId, name, version, sizeBytes, addedAt } = row;
  return { sha256, id: moduleId, name, version, description, scopes, paths, scripts, sizeBytes, addedAt, on };
};

function judgedBy(bench: Bench, row: KeptModule, subjects: readonly KnownHandset[]): ModuleView['on'] {
  return subjects.flatMap((subject) => {
    const own = modulesOf(subject).find(({ id }) => id === row.moduleId);
    if (!own || shelvedModule(bench, own.id, own.version)?.sha256 !== row.sha256) return [];
    const { id, name } = subject.handset;
    return [{ id, name, otherVersion: own.version === row.version ? null : own.version }];
  });
}
const isOn = ({ on }: ModuleView, chosen: KnownHandset | null) =>
  on.some(({ id }) => id === chosen?.handset.id);

/**
 * What the Modules room shows.
 * @param handsetId whose next update is judged; where it is null the first that has modules and waits for a
 * build
 */
export async function modulesView(
  handsetId: string | null,
  caution: Caution,
  limit: number = PLAIN_LIMIT,
): Promise<ModulesView> {
  const [bench, subjects] = [await readBench(), await readSubjects()];
  const chosen =
    subjects.find(({ handset }) => handset.id === handsetId) ??
    subjects.find((one) => moduleIdsOf(one).length > 0 && nextBuild(one, bench) !== null) ??
    subjects.find((one) => moduleIdsOf(one).length > 0) ??
    subjects[0] ??
    null;
  const shelf = bench.modules
    .map((row) => moduleView(row, judgedBy(bench, row, subjects)))
    // what is on the handset that is looked at comes first
    .sort((a, b) => Number(isOn(b, chosen)) - Number(isOn(a, chosen)));
  const own = chosen ? modulesOf(chosen) : [];
  return {
    handsets: subjects.map((one) => ({
      id: one.handset.id,
      name: one.handset.name,
      modules: moduleIdsOf(one).length,
    })),
    handset: chosen && { id: chosen.handset.id, name: chosen.handset.name },
    caution,
    limit,
    shelf,
    unread: own.filter(({ id }) => shelvedModule(bench, id) === null).map(({ id }) => id),
    clashes: clashesOf(
      own
        .flatMap(({ id, version }) => shelvedModule(bench, id, version) ?? [])
        .map((row) => ({ id: row.name, paths: row.facts.paths })),
    ),
    before: chosen && beforeUpdate(bench, chosen, caution, limit),
    matrix: matrixOf(bench, subjects),
  };
}
