import 'server-only';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { ModuleTrial } from '@/core/modules/chance';
import { chanceOf } from '@/core/modules/chance';
import type { ModuleFacts, ModuleScope } from '@/core/modules/read-module';
import type { StepSize } from '@/core/modules/step-size';
import { stepSize } from '@/core/modules/step-size';
import type { Judged } from '@/core/modules/switch-off';
import type { ImageReport } from '@/core/packages/inspect-image';
import type { Bench, Subject } from './judgements';

/* What all that is known says of a handset's modules on a build. Pure. */

/** As the handset last said. */
export const moduleIdsOf = ({ facts }: Pick<Subject, 'facts'>): readonly string[] =>
  (facts.value('modules') ?? '')
    .split(',')
    .map((id) => id.trim())
    .filter((id) => id !== '' && id !== 'none');

export const moduleFactsOf = ({ facts }: { readonly facts: string }) => JSON.parse(facts) as ModuleFacts;

/** The newest version on the shelf. */
export const shelvedModule = ({ modules }: Pick<Bench, 'modules'>, id: string) => modules.find((row) => row.moduleId === id) ?? null;

const scopeOf = (bench: Pick<Bench, 'modules'>, id: string): ModuleScope | null => {
  const row = shelvedModule(bench, id);
  return row ? (moduleFactsOf(row).scopes[0]?.scope ?? 'settings') : null;
};

/** By the kernels of the two stock images; null where they are not both in the vault. */
function kernelChanged({ images }: Pick<Bench, 'images'>, from: string, to: string): boolean | null {
  const kernel = (fingerprint: string) => {
    const image = images.find((one) => one.role === 'stock' && one.partition === 'boot' && one.fingerprint === fingerprint);
    return image ? ((JSON.parse(image.report) as ImageReport).sections.find(({ name }) => name === 'kernel')?.sha256 ?? null) : null;
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
export function judgeModules(bench: Bench, ids: readonly string[], from: string, to: string): JudgedModules {
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
    modules: ids.map((id) => ({
      id,
      chance: chanceOf({
        module: id,
        version: shelvedModule(bench, id)?.version ?? null,
        scope: scopeOf(bench, id),
        build: to,
        size,
        kernelChanged: kernel,
        trials,
        scopeOf: (other) => scopeOf(bench, other),
      }),
    })),
  };
}
