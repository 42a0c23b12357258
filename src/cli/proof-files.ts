import type { WeighedFiles } from '@/core/judge/weigh-write';
import { readKit } from '@/core/kits/read-kit';
import { openPackageFiles } from '@/core/packages/open-package';
import { pooledPorts } from '@/platform/node/pooled-ports';
import type { Arguments } from './arguments';
import { withFile, withFiles } from './files';

/** The files that a person names as proof of an image, open while `work` runs. */
export async function withProofFiles<T>(
  parsed: Arguments,
  work: (files: Omit<WeighedFiles, 'image'>) => Promise<T>,
): Promise<T> {
  const [stockPath, kitPath, packages] = [
    parsed.option('stock'),
    parsed.option('kit'),
    // a package of several files: the first stands behind the option, the others after it
    [...parsed.options('package'), ...parsed.positionals.slice(1)],
  ];
  const kit =
    kitPath === undefined
      ? null
      : await withFile(kitPath, async (file) => (await readKit(file, pooledPorts)).kit);
  return withFiles(packages, async (files) => {
    const opened = files.length > 0 ? await openPackageFiles(files, pooledPorts) : null;
    const also = { package: opened, kit };
    return stockPath === undefined
      ? work({ stock: null, ...also })
      : withFile(stockPath, (stock) => work({ stock, ...also }));
  });
}
