import protobuf from 'protobufjs/minimal';
import type { ByteSource } from '../bytes/byte-source';
import { toHex } from '../bytes/bytes';
import { EternoError } from '../errors';
import { applyBinaryPatch } from '../formats/binary-patch/apply-patch';
import type { PartitionUpdate } from '../formats/payload/layout';
import type { Payload } from '../formats/payload/reader';
import { extractPartition } from '../formats/payload/extract';
import { needsOld, unsupportedOf } from '../formats/payload/plan-operations';
import { partitionBytes, readPayload } from '../formats/payload/reader';
import type { ZipArchive, ZipEntry } from '../formats/zip/zip-archive';
import { findEntry } from '../formats/zip/zip-archive';
import type { Ports } from '../ports';
import { filesOfZip, findFile, parseKeyValues, readTextFile } from './package-files';
import { contentsOf } from './contents';
import type { OpenedPackage, PackageBuild, PackageImage } from './package-report';
import { mergeBuilds, plainImage, UNKNOWN_BUILD } from './package-report';
import { unwrap } from './unwrap';
import { METADATA_NAME, readUpdateMetadata } from './update-metadata';

const PAYLOAD_NAME = 'payload.bin';
const PROPERTIES_NAME = 'payload_properties.txt';

function imageOf(partition: PartitionUpdate, blockSize: number): PackageImage {
  return plainImage(partition.name, partitionBytes(partition, blockSize), {
    sha256: partition.sha256 ? toHex(partition.sha256) : null,
    needsSource: needsOld(partition),
    source: partition.oldSha256 ? { size: partition.oldSize, sha256: toHex(partition.oldSha256) } : null,
    unsupported: unsupportedOf(partition),
  });
}

function warningsOf(payload: Payload): string[] {
  const warnings: string[] = [];
  const unsupported = payload.manifest.partitions.filter((partition) => unsupportedOf(partition).length > 0);
  for (const partition of unsupported)
    warnings.push(`${partition.name} can't be made here: ${unsupportedOf(partition).join(', ')}`);
  if (payload.manifest.partialUpdate)
    warnings.push('a partial update: only the partitions listed are written, the others stay as they are');
  for (const partition of payload.manifest.partitions) {
    if (!partition.sha256) warnings.push(`${partition.name}: the package states no hash for it`);
  }
  return warnings;
}

/** A bare `payload.bin` (docs/formats.md, "Update payload"). */
export async function openPayloadFile(source: ByteSource, ports: Ports): Promise<OpenedPackage> {
  const payload = await readPayload(source, ports);
  const { manifest } = payload;
  return packageOf(payload, ports, {
    build: { ...UNKNOWN_BUILD, patchLevel: manifest.securityPatchLevel },
    evidence: ['begins with CrAU: an update payload', manifestEvidence(payload)],
    warnings: [...warningsOf(payload), 'a payload without its package: the build is not stated'],
  });
}

const manifestEvidence = ({ manifest }: Payload) =>
  `the manifest lists ${manifest.partitions.length} partitions in blocks of ${manifest.blockSize} bytes, minor version ${manifest.minorVersion}`;

type Findings = { build: PackageBuild; evidence: readonly string[]; warnings: readonly string[] };

function packageOf(payload: Payload, ports: Ports, { build, evidence, warnings }: Findings): OpenedPackage {
  const { manifest } = payload;
  const patcher = (before: Uint8Array, patch: Uint8Array, bytes: number) =>
    applyBinaryPatch(before, patch, bytes, ports.codecs);
  const images = manifest.partitions.map((partition) => imageOf(partition, manifest.blockSize));
  return {
    contents: contentsOf([], images),
    report: {
      kind: 'update-zip',
      incremental: manifest.minorVersion !== 0 || images.some((image) => image.needsSource),
      build,
      images,
      evidence,
      warnings,
      writes: [],
    },
    async take(partition, sink, watch, old = null) {
      const from = old && { image: (await unwrap(old, ports)).source, applyPatch: patcher };
      return extractPartition(payload, partition, sink, ports, watch, from);
    },
  };
}

/**
 * What `payload_properties.txt` states against the payload itself.
 * @throws {EternoError} `bad-hash`, `bad-field`, `truncated`
 */
function checkProperties(
  properties: ReadonlyMap<string, string>,
  payload: Payload,
  metadataBase64: string,
): string[] {
  const file = payload.source.name;
  const statedSize = properties.get('FILE_SIZE');
  if (statedSize !== undefined && Number(statedSize) !== payload.source.size) {
    const code = Number(statedSize) > payload.source.size ? 'truncated' : 'bad-field';
    throw new EternoError(
      code,
      `the payload has ${payload.source.size} bytes, its properties state ${statedSize}`,
      { file },
    );
  }
  const metadataSize = properties.get('METADATA_SIZE');
  if (metadataSize !== undefined && Number(metadataSize) !== payload.metadataBytes) {
    throw new EternoError(
      'bad-field',
      `the payload's metadata has ${payload.metadataBytes} bytes, its properties state ${metadataSize}`,
      { file },
    );
  }
  const metadataHash = properties.get('METADATA_HASH');
  if (metadataHash === undefined) return [];
  if (metadataHash !== metadataBase64)
    throw new EternoError(
      'bad-hash',
      'the manifest does not have the hash that the payload properties state',
      { file, offset: 0 },
    );
  return ['the manifest has the SHA-256 that payload_properties.txt states'];
}

/** An update ZIP: `payload.bin` read in place, with what stands beside it. */
export async function openUpdateZip(
  archive: ZipArchive,
  entry: ZipEntry,
  ports: Ports,
): Promise<OpenedPackage> {
  const payload = await readPayload(await archive.openStored(entry), ports);
  const files = filesOfZip(archive);
  const evidence = ['holds payload.bin, stored: an update package', manifestEvidence(payload)];
  const warnings = warningsOf(payload);
  const properties = findFile(files, PROPERTIES_NAME);
  if (properties)
    evidence.push(
      ...checkProperties(
        parseKeyValues(await readTextFile(properties)),
        payload,
        protobuf.util.base64.encode(payload.metadataSha256, 0, payload.metadataSha256.length),
      ),
    );
  else warnings.push('no payload_properties.txt: nothing outside the payload speaks for it');
  const metadata = await readUpdateMetadata(files);
  if (metadata) evidence.push(`${METADATA_NAME} names the build`);
  else warnings.push('no metadata beside the payload: the build is not stated');
  const build = mergeBuilds({ patchLevel: payload.manifest.securityPatchLevel }, metadata ?? {});
  const opened = packageOf(payload, ports, { build, evidence, warnings });
  return build.sourceFingerprint === null
    ? opened
    : { ...opened, report: { ...opened.report, incremental: true } };
}

export function payloadEntryOf(archive: ZipArchive): ZipEntry | null {
  return findEntry(archive, PAYLOAD_NAME);
}
