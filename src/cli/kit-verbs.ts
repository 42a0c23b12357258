import { EternoError } from '@/core/errors';
import type { Kit } from '@/core/kits/kit';
import { optionOf } from '@/core/kits/kit';
import { examineKit, readKit } from '@/core/kits/read-kit';
import type { PatchOptions } from '@/core/patch/patch-image';
import { patchImage } from '@/core/patch/patch-image';
import type { OptionValues } from '@/core/patch/steps-that-run';
import { replaceFragment } from '@/core/patch/replace-fragment';
import { unpatchImage } from '@/core/patch/unpatch-image';
import { writeFileWhole } from '@/platform/node/file-sink';
import { pooledPorts } from '@/platform/node/pooled-ports';
import { readSigningKey } from '@/platform/node/signing-key';
import { parseArguments } from './arguments';
import { withFile } from './files';
import type { Verb } from './verb';
import { watchOf } from './verb';

async function avbChoice(
  mode: string,
  keyPath: string | undefined,
): Promise<NonNullable<PatchOptions['avb']>> {
  if (mode !== 'sign' && keyPath !== undefined) throw new EternoError('usage', '--key goes with --avb sign');
  if (mode === 'carry' || mode === 'rehash') return { mode };
  if (mode !== 'sign') throw new EternoError('usage', '--avb takes carry, rehash or sign');
  if (keyPath === undefined) throw new EternoError('usage', '--avb sign needs --key PEM');
  return { mode, key: await readSigningKey(keyPath) };
}

/**
 * `NAME=VALUE` of each option as the kit takes it; the last of one name counts.
 * @throws {EternoError} `usage`
 */
function chosenOf(kit: Kit, given: readonly string[]): OptionValues {
  return Object.fromEntries(
    given.map((text) => {
      const at = text.indexOf('=');
      if (at < 1) throw new EternoError('usage', '--option takes NAME=VALUE');
      const [name, value] = [text.slice(0, at), text.slice(at + 1)];
      // what the kit does not declare, or does not take, is refused where it is patched
      const isBool = optionOf(kit, name)?.kind === 'bool' && ['true', 'false'].includes(value);
      return [name, isBool ? value === 'true' : value];
    }),
  );
}

export const patch: Verb = async (args, context) => {
  const parsed = parseArguments(
    args,
    ['kit', 'out', 'avb', 'key', 'fingerprint', 'ramdisk'],
    [1, 1],
    ['option'],
  );
  const [kitPath, out, fingerprint] = [
    parsed.required('kit'),
    parsed.required('out'),
    parsed.option('fingerprint'),
  ];
  const gzipInstead = parsed.option('ramdisk') === 'gzip';
  if (!gzipInstead && parsed.option('ramdisk') !== undefined)
    throw new EternoError('usage', '--ramdisk takes gzip, where its own kind cannot be written');
  const avb = await avbChoice(parsed.option('avb') ?? 'carry', parsed.option('key'));
  return withFile(parsed.positionals[0]!, (stock) =>
    withFile(kitPath, async (kitFile) => {
      const { kit } = await readKit(kitFile, pooledPorts);
      const options = {
        avb,
        gzipInstead,
        chosen: chosenOf(kit, parsed.options('option')),
        ...(fingerprint === undefined ? {} : { fingerprint }),
      };
      const {
        bytes,
        sha256,
        stockSha256,
        changes,
        proof,
        kit: name,
        notes,
      } = await patchImage(stock, kit, pooledPorts, options, watchOf(context));
      await writeFileWhole(out, bytes);
      return {
        out,
        size: bytes.length,
        sha256,
        stockSha256,
        kit: name,
        avb: avb.mode,
        changes,
        proof,
        notes,
      };
    }),
  );
};

/** `fragment VENDOR_BOOT --replace WHICH=FILE`: one ramdisk of vendor_boot replaced, rebuilt and proved. */
export const fragment: Verb = async (args, context) => {
  const parsed = parseArguments(args, ['replace', 'out', 'avb', 'key'], [1, 1]);
  const [replace, out] = [parsed.required('replace'), parsed.required('out')];
  const at = replace.indexOf('=');
  if (at < 1 || at === replace.length - 1)
    throw new EternoError('usage', '--replace takes WHICH=FILE, such as recovery=recovery.cpio.gz');
  const avb = await avbChoice(parsed.option('avb') ?? 'carry', parsed.option('key'));
  return withFile(parsed.positionals[0]!, (stock) =>
    withFile(replace.slice(at + 1), async (file) => {
      const which = replace.slice(0, at);
      const { bytes, ...rest } = await replaceFragment(
        stock,
        which,
        file,
        pooledPorts,
        { avb },
        watchOf(context),
      );
      await writeFileWhole(out, bytes);
      return { out, size: bytes.length, ...rest, avb: avb.mode };
    }),
  );
};

export const unpatch: Verb = async (args, context) => {
  const parsed = parseArguments(args, ['kit', 'stock', 'out'], [1, 1]);
  const [kitPath, out, stockPath] = [parsed.required('kit'), parsed.required('out'), parsed.option('stock')];
  return withFile(parsed.positionals[0]!, (patched) =>
    withFile(kitPath, async (kitFile) => {
      const { kit } = await readKit(kitFile, pooledPorts);
      const { bytes, ...rest } = stockPath
        ? await withFile(stockPath, (stock) =>
            unpatchImage(patched, kit, stock, pooledPorts, watchOf(context)),
          )
        : await unpatchImage(patched, kit, null, pooledPorts, watchOf(context));
      await writeFileWhole(out, bytes);
      return { out, size: bytes.length, ...rest };
    }),
  );
};

/** `kit check FILE`: everything that is wrong with a kit. */
export const kit: Verb = async ([what, ...rest]) => {
  if (what !== 'check') throw new EternoError('usage', 'kit check FILE');
  const { positionals } = parseArguments(rest, [], [1, 1]);
  return withFile(positionals[0]!, async (file) => {
    const { kit: read, problems, warnings } = await examineKit(file, pooledPorts);
    if (!read)
      throw new EternoError('kit-invalid', problems.join('; '), {
        file: file.name,
        details: { problems: problems.length },
      });
    const { id, name, version, versionCode, channel, supports, marker, steps, files } = read;
    return {
      valid: true,
      id,
      name,
      version,
      versionCode,
      channel,
      supports,
      marker,
      steps: steps.length,
      files: [...files.keys()],
      warnings,
    };
  });
};
