import { memorySource } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { packOsVersion } from '@/core/formats/boot-image/layout';
import { readBootImage } from '@/core/formats/boot-image/reader';
import type { BootParts } from '@/core/formats/boot-image/writer';
import { writeBootImage, writeBootImageWithId } from '@/core/formats/boot-image/writer';
import { VENDOR_RAMDISK_TYPES } from '@/core/formats/vendor-boot/layout';
import { readVendorBoot } from '@/core/formats/vendor-boot/reader';
import { writeVendorBoot } from '@/core/formats/vendor-boot/writer';
import { LIMITS } from '@/core/limits';
import { writeFileWhole } from '@/platform/node/file-sink';
import { nodePorts } from '@/platform/node/node-ports';
import type { Arguments } from './arguments';
import { parseArguments } from './arguments';
import { withFile } from './files';
import type { Verb } from './verb';

const FILES = ['kernel', 'ramdisk', 'second', 'recovery-dtbo', 'dtb', 'signature', 'bootconfig'] as const;
const TEXTS = [
  'kind',
  'header-version',
  'page-size',
  'name',
  'cmdline',
  'os-version',
  'patch-level',
  'out',
] as const;

const EMPTY = new Uint8Array(0);

async function partOf(path: string | undefined): Promise<Uint8Array> {
  if (path === undefined) return EMPTY;
  return withFile(path, (file) => {
    if (file.size > LIMITS.imageBytes)
      throw new EternoError('too-large', `a part of ${file.size} bytes`, { file: file.name });
    return file.read(0, file.size);
  });
}

function numberOption(args: Arguments, name: string, fallback: number, allowed: readonly number[]): number {
  const value = Number(args.option(name) ?? fallback);
  if (!allowed.includes(value)) throw new EternoError('usage', `--${name} takes ${allowed.join(', ')}`);
  return value;
}

function releaseField(args: Arguments): number {
  const [release, level] = [args.option('os-version'), args.option('patch-level')];
  if (release === undefined && level === undefined) return 0;
  const version = /^(\d{1,3})(?:\.(\d{1,3}))?(?:\.(\d{1,3}))?$/.exec(release ?? '0');
  const month = /^(20\d\d)-(0[1-9]|1[0-2])$/.exec(level ?? '');
  if (!version || !month)
    throw new EternoError(
      'usage',
      '--os-version takes A.B.C and --patch-level takes yyyy-mm; they go together',
    );
  const part = (i: number) => Math.min(127, Number(version[i] ?? 0));
  return packOsVersion([part(1), part(2), part(3)], [Number(month[1]), Number(month[2])]);
}

async function packBoot(args: Arguments): Promise<Uint8Array> {
  const version = numberOption(args, 'header-version', NaN, [0, 1, 2, 3, 4]) as BootParts['version'];
  const parts: BootParts = {
    version,
    pageSize: numberOption(
      args,
      'page-size',
      version >= 3 ? 4096 : 2048,
      version >= 3 ? [4096] : [2048, 4096, 8192, 16384],
    ),
    osVersionField: releaseField(args),
    name: args.option('name') ?? '',
    cmdline: args.option('cmdline') ?? '',
    kernel: await partOf(args.option('kernel')),
    ramdisk: await partOf(args.option('ramdisk')),
    second: await partOf(args.option('second')),
    recoveryDtbo: await partOf(args.option('recovery-dtbo')),
    dtb: await partOf(args.option('dtb')),
    signature: await partOf(args.option('signature')),
  };
  const refuse = (name: string, bytes: Uint8Array | undefined, versions: readonly number[]) => {
    if (bytes && bytes.length > 0 && !versions.includes(version))
      throw new EternoError('usage', `a header of version ${version} has no place for --${name}`);
  };
  refuse('second', parts.second, [0, 1, 2]);
  refuse('recovery-dtbo', parts.recoveryDtbo, [1, 2]);
  refuse('dtb', parts.dtb, [2]);
  refuse('signature', parts.signature, [4]);
  const image = version >= 3 ? writeBootImage(parts) : await writeBootImageWithId(parts, nodePorts.digests);
  const read = await readBootImage(memorySource(image, 'packed image'));
  if (read.header.cmdline !== parts.cmdline || read.header.name !== (version >= 3 ? '' : parts.name))
    throw new EternoError('bad-field', 'the name or the command line is longer than this header holds');
  return image;
}

async function packVendorBoot(args: Arguments): Promise<Uint8Array> {
  numberOption(args, 'header-version', 4, [4]);
  const ramdisks = [];
  for (const item of args.options('vendor-ramdisk')) {
    const [typeText = '', name = '', ...path] = item.split(':');
    const type = VENDOR_RAMDISK_TYPES.find((one) => one === typeText);
    if (!type || path.length === 0)
      throw new EternoError(
        'usage',
        `--vendor-ramdisk takes TYPE:NAME:FILE with ${VENDOR_RAMDISK_TYPES.join(', ')} as TYPE`,
      );
    ramdisks.push({ type, name, bytes: await partOf(path.join(':')) });
  }
  const image = writeVendorBoot({
    pageSize: numberOption(args, 'page-size', 4096, [2048, 4096, 8192, 16384]),
    name: args.option('name') ?? '',
    cmdline: args.option('cmdline') ?? '',
    ramdisks,
    dtb: await partOf(args.option('dtb')),
    bootconfig: await partOf(args.option('bootconfig')),
  });
  const read = await readVendorBoot(memorySource(image, 'packed image'));
  if (read.header.cmdline !== (args.option('cmdline') ?? ''))
    throw new EternoError('bad-field', 'the command line is longer than this header holds');
  return image;
}

/**
 * `pack --header-version N … --out PATH`: a boot or vendor_boot image from its parts, read back before it is
 * written.
 */
export const pack: Verb = async (argv) => {
  const args = parseArguments(argv, [...FILES, ...TEXTS], [0, 0], ['vendor-ramdisk']);
  const kind = args.option('kind') ?? 'boot';
  if (kind !== 'boot' && kind !== 'vendor_boot')
    throw new EternoError('usage', '--kind takes boot or vendor_boot');
  const out = args.required('out');
  const image = kind === 'boot' ? await packBoot(args) : await packVendorBoot(args);
  await writeFileWhole(out, image);
  return { out, kind, size: image.length };
};
