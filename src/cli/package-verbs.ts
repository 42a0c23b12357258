import { mkdir } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { countingSource } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { fitPackage } from '@/core/fit/fit-package';
import { packageClaim } from '@/core/fit/package-claim';
import { LIMITS } from '@/core/limits';
import { readFirmwareSet } from '@/core/packages/firmware-set';
import { openPackageFiles } from '@/core/packages/open-package';
import { repackTarSet } from '@/core/packages/repack-tar-set';
import type { FileSink } from '@/platform/node/file-sink';
import { fileSink } from '@/platform/node/file-sink';
import { pooledPorts } from '@/platform/node/pooled-ports';
import { parseArguments } from './arguments';
import { readFacts } from './facts-file';
import { refuseExisting, withFile, withFiles } from './files';
import type { Verb } from './verb';
import { watchOf } from './verb';

export const identify: Verb = async (args, context) => {
  const { positionals } = parseArguments(args, [], [1, LIMITS.packageFiles]);
  return withFiles(
    positionals,
    async (sources) => (await openPackageFiles(sources, pooledPorts, watchOf(context))).report,
  );
};

/** `set FILE…`: the parts of a firmware set, or a folder of them. */
export const set: Verb = async (args, context) => {
  const { positionals } = parseArguments(args, [], [1, LIMITS.packageFiles]);
  return withFiles(positionals, (sources) => readFirmwareSet(sources, pooledPorts, watchOf(context)));
};

/**
 * `fit FILE… --facts FACTS.json`: the facts as the verb `facts` gives them.
 * @throws {EternoError} `bad-field`
 */
export const fit: Verb = async (args, context) => {
  const parsed = parseArguments(args, ['facts'], [1, LIMITS.packageFiles]);
  const installed = await readFacts(parsed.required('facts'));
  return withFiles(parsed.positionals, async (sources) => {
    const { report } = await openPackageFiles(sources, pooledPorts, watchOf(context));
    return fitPackage(packageClaim(report, sources[0]!.name), installed);
  });
};

export const take: Verb = async (args, context) => {
  const parsed = parseArguments(args, ['image', 'out', 'source'], [1, LIMITS.packageFiles]);
  const [partition, out, source] = [
    parsed.required('image'),
    parsed.required('out'),
    parsed.option('source'),
  ];
  return withFiles(parsed.positionals, async (files) => {
    const counted = files.map((file) => countingSource(file));
    const opened = await openPackageFiles(counted, pooledPorts, watchOf(context));
    const sink = fileSink(out);
    try {
      const taken =
        source === undefined
          ? await opened.take(partition, sink, watchOf(context))
          : await withFile(source, (old) => opened.take(partition, sink, watchOf(context), old));
      await sink.commit();
      return { partition, ...taken, bytesRead: counted.reduce((sum, one) => sum + one.bytesRead, 0), out };
    } finally {
      await sink.discard();
    }
  });
};

/**
 * `repack FILE… --replace MEMBER=IMAGE --out DIR`. Nothing is left in the folder unless all of it was written
 * and read back.
 */
export const repack: Verb = async (args, context) => {
  const parsed = parseArguments(args, ['out'], [1, LIMITS.packageFiles], ['replace']);
  const out = parsed.required('out');
  const pairs = parsed.options('replace').map((pair) => {
    const at = pair.indexOf('=');
    if (at < 1 || at === pair.length - 1) throw new EternoError('usage', '--replace takes MEMBER=IMAGE');
    return { member: pair.slice(0, at), path: pair.slice(at + 1) };
  });
  if (pairs.length === 0) throw new EternoError('usage', '--replace is needed');
  return withFiles(parsed.positionals, (sources) =>
    withFiles(
      pairs.map(({ path }) => path),
      async (images) => {
        const sinks: FileSink[] = [];
        const sinkFor = (name: string) => {
          const sink = fileSink(join(out, basename(name)));
          sinks.push(sink);
          let size = 0;
          return {
            async write(bytes: Uint8Array) {
              await sink.writeAt(size, bytes);
              size += bytes.length;
            },
            async readBack() {
              await sink.begin(size);
              return sink.readBack();
            },
          };
        };
        await mkdir(out, { recursive: true });
        // its members keep their names: none of them may lie in the folder already
        if (!context.force) for (const { name } of sources) await refuseExisting(join(out, basename(name)));
        try {
          const replacements = new Map(pairs.map(({ member }, i) => [member, images[i]!] as const));
          const set = await repackTarSet(sources, replacements, sinkFor, pooledPorts, watchOf(context));
          for (const sink of sinks) await sink.commit();
          return { out, ...set };
        } finally {
          for (const sink of sinks) await sink.discard();
        }
      },
    ),
  );
};
