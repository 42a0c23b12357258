import { sha256OfSource } from '@/core/bytes/digest';
import type { ByteSource } from '@/core/bytes/byte-source';
import { memorySink } from '@/core/bytes/image-sink';
import { EternoError } from '@/core/errors';
import type { UnboundCheck } from '@/core/gates/unbound-write';
import { blocking } from '@/core/gates/check';
import type { UnboundWrite } from '@/core/gates/unbound-write';
import { unboundWriteChecks } from '@/core/gates/unbound-write';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import { readKit } from '@/core/kits/read-kit';
import { identifyImage } from '@/core/packages/bare-image';
import { inspectImage } from '@/core/packages/inspect-image';
import { openPackageFiles } from '@/core/packages/open-package';
import { compareImages } from '@/core/patch/compare-images';
import { judgePatched } from '@/core/patch/judge-patched';
import { proveAgain } from '@/core/patch/patch-image';
import type { BootloaderClient } from '@/link/bootloader-client';
import { pooledPorts } from '@/platform/node/pooled-ports';
import type { Arguments } from './arguments';
import { readFacts } from './facts-file';
import { withFile, withFiles } from './files';

/*
 * Before the command line writes: the same questions as in a round, answered from files that the person
 * names.
 */

export const PROOF_OPTIONS = ['facts', 'stock', 'kit', 'unproved'] as const;
export const PROOF_LISTS = ['package'] as const;

type Proof = UnboundWrite['proof'];
const NOTHING: Proof = {
  holds: null,
  why: 'Nothing was given that proves it: name its stock image (--stock) or its package (--package).',
};

/** Holds an image against the stock image of its build. */
async function provedByStock(
  image: ByteSource,
  stock: ByteSource,
  kitPath: string | undefined,
  from: string,
): Promise<Proof> {
  const [own, of] = [
    await sha256OfSource(pooledPorts.digests, image),
    await sha256OfSource(pooledPorts.digests, stock),
  ];
  if (own === of) return { holds: true, why: `It is ${from}, byte for byte.` };
  if (kitPath !== undefined) {
    const kit = await withFile(kitPath, async (file) => (await readKit(file, pooledPorts)).kit);
    const lines = await proveAgain(stock, kit, image, pooledPorts);
    const failed = lines.filter(({ ok }) => !ok);
    return failed.length === 0
      ? {
          holds: true,
          why: `Patched from ${from} with ${kit.name} ${kit.version}: ${lines.length} checks hold.`,
        }
      : {
          holds: false,
          why: `It is not ${from} patched with ${kit.name} ${kit.version}: ${failed[0]!.check}.`,
        };
  }
  const reports = [await inspectImage(stock, pooledPorts), await inspectImage(image, pooledPorts)] as const;
  const { verdict, lines } = judgePatched(...reports, await compareImages(stock, image, pooledPorts));
  const wrong = lines.find((line) => line.verdict !== 'holds');
  if (verdict !== 'holds')
    return { holds: false, why: `It does not belong to ${from}: ${wrong!.check}, ${wrong!.seen}.` };
  return reports[1].patchedBy === null
    ? { holds: null, why: `It agrees with ${from}, and bears no note of the stock image it was made from.` }
    : { holds: true, why: `It names ${from} as its stock, and only what a patch changes is changed.` };
}

async function provedByPackage(
  image: ByteSource,
  partition: string,
  paths: readonly string[],
  kit: string | undefined,
): Promise<Proof & { fingerprint: string | null }> {
  return withFiles(paths, async (files) => {
    const opened = await openPackageFiles(files, pooledPorts);
    const { fingerprint } = opened.report.build;
    if (!opened.report.images.some((one) => one.partition === partition))
      return { holds: false, why: `The package holds no image of ${partition}.`, fingerprint };
    const sink = memorySink(partition);
    await opened.take(partition, sink);
    return {
      ...(await provedByStock(image, await sink.readBack(), kit, `the ${partition} of the package`)),
      fingerprint,
    };
  });
}

export interface GuardedWrite {
  readonly sha256: string;
  readonly checks: readonly UnboundCheck[];
  /** Why the person went past what is not known; null where nothing had to be. */
  readonly unproved: string | null;
}

/**
 * @param partition what is written; null for a start from memory
 * @throws {EternoError} `refused` where a check does not hold, with all of them in `details`; `bad-magic` for
 *   what is no image
 */
export async function needWritable(
  client: BootloaderClient,
  image: ByteSource,
  partition: string | null,
  parsed: Arguments,
): Promise<GuardedWrite> {
  const identity = await identifyImage(image);
  const printed = interpretFacts(
    parsePrinted((await client.allVariables()).map((line) => `(bootloader) ${line}`).join('\n')).values,
  );
  const factsPath = parsed.option('facts');
  const given = factsPath === undefined ? null : await readFacts(factsPath);
  const { proof, fingerprint } = await proofOf(image, partition ?? 'boot', parsed);
  const checks = unboundWriteChecks({
    image: { partition: identity.partition, fingerprint: identity.build.fingerprint ?? fingerprint },
    partition,
    handset: {
      device: printed.device ?? given?.device ?? null,
      fingerprint: given?.fingerprint ?? null,
      unlocked: printed.unlocked,
      batteryOk: printed.batteryOk,
    },
    serialSame: serialsAgree(given, printed.serial),
    proof,
  });
  const reason = parsed.option('unproved')?.trim() ?? '';
  const held = blocking(checks, reason === '' ? [] : checks.map(({ id }) => ({ checkId: id, reason })));
  if (held.length > 0)
    throw new EternoError('refused', held.map(({ title, evidence }) => `${title}: ${evidence}`).join(' '), {
      file: image.name,
      details: { checks: held.map(({ id, verdict }) => `${id} ${verdict}`).join(', ') },
    });
  const open = checks.some(({ verdict }) => verdict !== 'holds');
  return { sha256: await sha256OfSource(pooledPorts.digests, image), checks, unproved: open ? reason : null };
}

/** What the files that were named prove; the build of a package that proves the image. */
async function proofOf(
  image: ByteSource,
  partition: string,
  parsed: Arguments,
): Promise<{ readonly proof: Proof; readonly fingerprint: string | null }> {
  const [stock, kit, packages] = [parsed.option('stock'), parsed.option('kit'), parsed.options('package')];
  if (packages.length > 0) {
    const proof = await provedByPackage(image, partition, packages, kit);
    return { proof, fingerprint: proof.holds === true ? proof.fingerprint : null };
  }
  if (stock === undefined) return { proof: NOTHING, fingerprint: null };
  const proof = await withFile(stock, (file) => provedByStock(image, file, kit, 'the stock image'));
  return { proof, fingerprint: null };
}

/** With no facts given there is nothing to compare; a serial that one of them leaves out is not known. */
function serialsAgree(given: { readonly serial: string | null } | null, read: string | null): boolean | null {
  if (given === null) return true;
  return given.serial === null || read === null ? null : given.serial === read;
}
