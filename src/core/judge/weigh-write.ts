import type { ByteSource } from '../bytes/byte-source';
import { equalBytes } from '../bytes/bytes';
import { sha256OfSource } from '../bytes/digest';
import { memorySink } from '../bytes/image-sink';
import { EternoError } from '../errors';
import { readVendorBoot, vendorRamdiskBytes, vendorSectionBytes } from '../formats/vendor-boot/reader';
import type { Kit } from '../kits/kit';
import type { OpenedPackage } from '../packages/package-report';
import { isRecovery, recoveryClaim, recoveryIsFor } from '../packages/recovery-claim';
import { unwrap } from '../packages/unwrap';
import { onlyRamdiskReplaced } from '../patch/put-recovery';
import { proveHoweverMade } from '../patch/prove-options';
import type { Ports } from '../ports';
import { pointSeen, pointWords } from '../words/judged';
import type { WritePurpose } from '../words/write';
import { judgePatched } from './judge-patched';
import type { JudgedPatch } from './judge-patched';
import type { ImageIdentity } from '../packages/bare-image';
import { knownPartition, mayBeOfOne } from '../packages/bare-image';
import type { JudgedSide } from './judged-side';
import { fingerprintsOf, readSide } from './judged-side';
import { traceOfPatch } from './traces';
import type { PackageOfImage, WriteProof, WriteTarget, WrittenImage } from './write-question';

/* What the judgement of a write asks of files: the image, its stock image, its package, a kit. */

export interface WeighedFiles {
  readonly image: ByteSource;
  readonly stock: ByteSource | null;
  readonly package: OpenedPackage | null;
  /** The kit that patched it, to prove the patch in full. */
  readonly kit: Kit | null;
}

export interface Weighed {
  readonly image: WrittenImage;
  readonly proof: WriteProof;
  readonly sha256: string;
}

interface Opened {
  readonly source: ByteSource;
  readonly sha256: string;
  /** Null where its bytes are of no known format. */
  readonly side: JudgedSide | null;
}

async function open(file: ByteSource, ports: Ports): Promise<Opened> {
  const { source } = await unwrap(file, ports);
  const sha256 = await sha256OfSource(ports.digests, source);
  return { source, sha256, side: await sideOrNull(source, ports) };
}

/** Bootloaders and radios are containers of the maker's own: they are known by their package only. */
async function sideOrNull(source: ByteSource, ports: Ports): Promise<JudgedSide | null> {
  try {
    return await readSide(source, ports);
  } catch (thrown) {
    if (thrown instanceof EternoError && thrown.code === 'bad-magic') return null;
    throw thrown;
  }
}

/** The package's own image of a partition, checked against what the package states. */
async function fromPackage(
  opened: OpenedPackage | null,
  partition: string,
  ports: Ports,
): Promise<Opened | null> {
  const listed = opened?.report.images.find((one) => one.partition === partition);
  // what starts from an old image, or can't be done here, tells nothing
  if (!opened || !listed || listed.needsSource || listed.unsupported.length > 0) return null;
  const sink = memorySink(partition);
  await opened.take(partition, sink);
  return open(await sink.readBack(), ports);
}

/**
 * @throws {EternoError} what the readers find wrong with a file, `bad-hash` where a package's own image does
 *   not have the hash that the package states
 */
export async function weighWrite(
  files: WeighedFiles,
  { purpose, target }: { readonly purpose: WritePurpose; readonly target: WriteTarget },
  ports: Ports,
): Promise<Weighed> {
  const own = await open(files.image, ports);
  const packaged = await fromPackage(files.package, target.partition, ports);
  const stock = files.stock ? await open(files.stock, ports) : packaged;
  const fromPackageItself = packaged?.sha256 === own.sha256 ? packageOf(files.package!) : null;
  const image = imageOf(own, stock, fromPackageItself);
  return { image, proof: await proofOf(purpose), sha256: own.sha256 };

  async function proofOf(what: WritePurpose): Promise<WriteProof> {
    if (what === 'recovery') return recoveryProof(own, stock, target, ports);
    if (what === 'stock' || what === 'bootloader')
      return bytesProof(own, { packaged, stock: files.stock ? stock : null });
    const fromIt = packaged !== null && packaged.sha256 === stock?.sha256;
    const named = stock?.side ? (fingerprintsOf(stock.side)[0] ?? null) : null;
    const build = named ?? (fromIt ? files.package!.report.build.fingerprint : null);
    return patchProof({ own, stock, build, kit: files.kit }, ports);
  }
}

/** Where an image does not tell which of two it is of, the image it is held against does; whether it comes from that is the proof's business. */
const partitionOf = (own: ImageIdentity, stock: ImageIdentity | null): string | null =>
  knownPartition(own) ?? (stock && mayBeOfOne(own, stock) ? knownPartition(stock) : null);

/** What its own bytes say of an image; nothing where they are of no known format. */
function imageOf(
  { source, side }: Opened,
  stock: Opened | null,
  packaged: PackageOfImage | null,
): WrittenImage {
  const unread = { partition: null, fingerprints: [], patchLevel: null, level: null };
  const said = side && {
    partition: partitionOf(side.identity, stock?.side?.identity ?? null),
    fingerprints: fingerprintsOf(side),
    patchLevel: side.identity.build.patchLevel,
    level: side.report.avb?.rollbackIndex ?? null,
  };
  return { ...(said ?? unread), sizeBytes: source.size, package: packaged };
}

function packageOf({ report: { build } }: OpenedPackage): PackageOfImage {
  return {
    fingerprint: build.fingerprint,
    devices: build.devices,
    bootloaders: build.requiredBootloader,
  };
}

function bytesProof(
  own: Opened,
  { packaged, stock }: { readonly packaged: Opened | null; readonly stock: Opened | null },
): WriteProof {
  const patched = own.side !== null && traceOfPatch(own.side);
  const other = packaged ?? stock;
  if (other)
    return {
      kind: 'bytes',
      same: other.sha256 === own.sha256,
      as: packaged ? 'package' : 'stock',
      patched,
    };
  return own.side?.report.avb?.digestValid === true || patched
    ? { kind: 'own data', patched }
    : { kind: 'nothing' };
}

interface PatchQuestion {
  readonly own: Opened;
  readonly stock: Opened | null;
  /** Of the stock image. */
  readonly build: string | null;
  readonly kit: Kit | null;
}

async function patchProof({ own, stock, build, kit }: PatchQuestion, ports: Ports): Promise<WriteProof> {
  if (!stock?.side || !own.side) return { kind: 'nothing' };
  if (kit && stock.sha256 !== own.sha256) {
    const lines = await proveHoweverMade(stock.source, kit, own.source, ports);
    const held = lines.filter(({ ok }) => ok).length;
    const failed = lines.find(({ ok }) => !ok)?.check ?? null;
    return { kind: 'patch', held, of: lines.length, failed, stockBuild: build };
  }
  return judgedProof(judgePatched(stock.side, own.side, kit), build, null);
}

/** What a judgement of an image patched elsewhere comes to as the proof of a write. */
export function judgedProof(
  {
    belongs,
    times,
    unexpected,
    lines,
    same,
  }: Pick<JudgedPatch, 'belongs' | 'times' | 'unexpected' | 'lines' | 'same'>,
  stockBuild: string | null,
  trust: string | null,
): Extract<WriteProof, { kind: 'judged' }> {
  const against = lines.find(({ ok }) => ok === false);
  return {
    kind: 'judged',
    belongs,
    times,
    unexpected: unexpected.length,
    against: against ? `${pointWords(against.point)}: ${pointSeen(against.point)}` : null,
    same,
    stockBuild,
    trust,
  };
}

async function recoveryProof(
  own: Opened,
  stock: Opened | null,
  { partition, device, installed, recoveryHome }: WriteTarget,
  ports: Ports,
): Promise<WriteProof> {
  if (own.side === null)
    return {
      kind: 'recovery',
      is: { holds: false, says: { code: 'nothing-inside' } },
      forHandset: { holds: null, says: { code: 'names-nobody' } },
      opensUpTo: null,
      onlyFragment: null,
    };
  const claim = await recoveryClaim(own.source, ports);
  const inHome = partition !== 'recovery' && recoveryHome === partition;
  return {
    kind: 'recovery',
    // in another home it is that image with a recovery in it, and says so
    is: isRecovery(inHome ? { ...claim, partition: null } : claim),
    forHandset: recoveryIsFor(claim, { device, fingerprint: installed }, null),
    opensUpTo: claim.opensUpTo,
    onlyFragment: inHome && stock ? await onlyRecoveryReplaced(stock, own) : null,
  };
}

/** Whether an image is the stock image with nothing but its recovery replaced. */
async function onlyRecoveryReplaced(stock: Opened, own: Opened): Promise<boolean> {
  if (!stock.side || !own.side) return false;
  if (stock.side.report.kind === 'vendor_boot' && own.side.report.kind === 'vendor_boot')
    return sameButRecovery(stock.source, own.source);
  const bothBoot = [stock, own].every(({ side }) => side?.report.kind === 'boot');
  return bothBoot && onlyRamdiskReplaced(stock.source, own.source);
}

async function sameButRecovery(stock: ByteSource, own: ByteSource): Promise<boolean> {
  const [a, b] = [await readVendorBoot(stock), await readVendorBoot(own)];
  const plain = ({ header }: typeof a) =>
    JSON.stringify([header.version, header.pageSize, header.name, header.cmdline]);
  if (plain(a) !== plain(b) || a.ramdisks.length !== b.ramdisks.length) return false;
  for (const name of ['dtb', 'bootconfig'] as const) {
    if (!equalBytes(await vendorSectionBytes(a, name), await vendorSectionBytes(b, name))) return false;
  }
  for (const [i, fragment] of a.ramdisks.entries()) {
    const other = b.ramdisks[i]!;
    if (fragment.type !== other.type || fragment.name !== other.name) return false;
    if (fragment.type === 'recovery') continue;
    if (!equalBytes(await vendorRamdiskBytes(a, fragment), await vendorRamdiskBytes(b, other))) return false;
  }
  return a.ramdisks.some(({ type }) => type === 'recovery');
}
