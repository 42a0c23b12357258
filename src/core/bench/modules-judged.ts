import { splitFingerprint } from '../formats/facts/parse-facts';
import type { ModuleTrial } from '../modules/chance';
import { chanceOf } from '../modules/chance';
import type { InstalledModule } from '../modules/installed';
import { parseInstalled } from '../modules/installed';
import type { ModuleScope } from '../modules/read-module';
import type { StepSize } from '../modules/step-size';
import { stepSize } from '../modules/step-size';
import type { Judged } from '../modules/switch-off';
import type { Bench, Subject } from './bench';

/* What all that is known says of a handset's modules on a build. Pure. */

/** As the handset last said. */
export const modulesOf = ({ facts }: Pick<Subject, 'facts'>): readonly InstalledModule[] =>
  parseInstalled(facts.value('modules'));
export const moduleIdsOf = (subject: Pick<Subject, 'facts'>): readonly string[] =>
  modulesOf(subject).map(({ id }) => id);
/** Those of a handset with these ids; of one that it does not tell of, only the id is known. */
export function modulesNamed(
  subject: Pick<Subject, 'facts'>,
  ids: readonly string[],
): readonly InstalledModule[] {
  const own = modulesOf(subject);
  return ids.map((id) => own.find((one) => one.id === id) ?? { id, version: null });
}

/** The version that is asked for; the newest on the shelf where that is not there, or none is named. */
export function shelvedModule(
  { modules }: Pick<Bench, 'modules'>,
  id: string,
  version: string | null = null,
) {
  const own = modules.filter((row) => row.moduleId === id);
  return own.find((row) => row.version === version) ?? own[0] ?? null;
}
/** The version that judgements speak of: the one that the handset tells of, else the newest on the shelf. */
export const versionOf = (bench: Pick<Bench, 'modules'>, { id, version }: InstalledModule) =>
  version ?? shelvedModule(bench, id)?.version ?? null;

const scopeOf = (
  bench: Pick<Bench, 'modules'>,
  id: string,
  version: string | null = null,
): ModuleScope | null => {
  const row = shelvedModule(bench, id, version);
  return row ? (row.facts.scopes[0]?.scope ?? 'settings') : null;
};

/** By the kernels of the two stock images; null where they are not both in the vault. */
function kernelChanged({ images }: Pick<Bench, 'images'>, from: string, to: string): boolean | null {
  const kernel = (fingerprint: string) => {
    const image = images.find(
      (one) => one.role === 'stock' && one.partition === 'boot' && one.fingerprint === fingerprint,
    );
    return image ? (image.report.sections.find(({ name }) => name === 'kernel')?.sha256 ?? null) : null;
  };
  const [a, b] = [kernel(from), kernel(to)];
  return a === null || b === null ? null : a !== b;
}

const levelOf = ({ builds }: Pick<Bench, 'builds'>, fingerprint: string) => ({
  release: splitFingerprint(fingerprint)?.release ?? null,
  patchLevel: builds.find((build) => build.fingerprint === fingerprint)?.patchLevel ?? null,
});

export interface JudgedModules {
  readonly size: StepSize;
  readonly kernelChanged: boolean | null;
  readonly modules: readonly Judged[];
}

/** The chance of each module on the build that comes, from the one it runs on. */
export function judgeModules(
  bench: Bench,
  installed: readonly InstalledModule[],
  from: string,
  to: string,
): JudgedModules {
  const size = stepSize(levelOf(bench, from), levelOf(bench, to));
  const kernel = kernelChanged(bench, from, to);
  const trials = bench.moduleTrials.map(({ module, moduleVersion, fingerprint, outcome }): ModuleTrial => ({
    module,
    version: moduleVersion,
    build: fingerprint,
    outcome,
  }));
  return {
    size,
    kernelChanged: kernel,
    modules: installed.map(({ id, version }) => ({
      id,
      chance: chanceOf({
        module: id,
        version: versionOf(bench, { id, version }),
        scope: scopeOf(bench, id, version),
        build: to,
        size,
        kernelChanged: kernel,
        trials,
        scopeOf: (other) => scopeOf(bench, other),
      }),
    })),
  };
}
