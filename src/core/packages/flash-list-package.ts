import type { MissingFile } from './package-report';
import type { ByteSource } from '../bytes/byte-source';
import { digestOfSource } from '../bytes/digest';
import { EternoError } from '../errors';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { FlashList, FlashStep } from '../formats/flash-list/parse-flash-list';
import { parseFlashList } from '../formats/flash-list/parse-flash-list';
import { LIMITS } from '../limits';
import type { Ports, Watch } from '../ports';
import type { ImageMember } from './member-package';
import { buildOfMembers, memberPackage } from './member-package';
import type { PackageFile } from './package-files';
import { baseName, readTextFile } from './package-files';
import type { OpenedPackage, PackageBuild, PackageImage } from './package-report';
import { mergeBuilds } from './package-report';

/*
 * Packages with a list of what to write where (docs/formats.md, "Packages"): the list names the files, their
 * MD5 and the slots.
 */

export interface FoundList {
  readonly file: PackageFile;
  readonly list: FlashList;
}

/**
 * The list among a package's files: the XML with the most steps.
 * @throws {EternoError} of `parseFlashList`
 */
export async function findFlashList(
  files: readonly PackageFile[],
  { readXml }: Pick<Ports, 'readXml'>,
): Promise<FoundList | null> {
  let best: FoundList | null = null;
  const candidates = files.filter((file) => /\.xml$/i.test(file.name) && file.size <= LIMITS.textMemberBytes);
  for (const file of candidates.slice(0, LIMITS.textMembers)) {
    const list = parseFlashList(await readTextFile(file), file.name, readXml);
    if (list && list.steps.length > (best?.list.steps.length ?? 0)) best = { file, list };
  }
  return best;
}

const SLOT_ENDING = /_(a|b)$/;

/** One partition's steps: which files it takes and into which slots they go. */
interface Target {
  readonly partition: string;
  readonly slots: PackageImage['slots'];
  readonly steps: readonly FlashStep[];
}

/**
 * Steps by partition. The two slots of one partition are one target where they get the same file, two targets
 * where they do not.
 */
function targetsOf({ steps, changesSlot }: FlashList): Target[] {
  const bases = [...new Set(steps.map((step) => step.partition.replace(SLOT_ENDING, '')))];
  return bases.flatMap((base): Target[] => {
    const own = steps.filter((step) => step.partition.replace(SLOT_ENDING, '') === base);
    const of = (name: string) => own.filter((step) => step.partition === name);
    const [bare, a, b] = [of(base), of(`${base}_a`), of(`${base}_b`)];
    if (a.length > 0 && b.length > 0) {
      const same = a.map((step) => step.filename).join('\n') === b.map((step) => step.filename).join('\n');
      if (same) return [{ partition: base, slots: 'both', steps: a }];
      return [
        { partition: `${base}_a`, slots: 'one', steps: a },
        { partition: `${base}_b`, slots: 'one', steps: b },
      ];
    }
    const written = [bare, a, b].find((list) => list.length > 0)!;
    const again = changesSlot && written.length > 1 && distinct(written).length === 1;
    return [
      {
        partition: base,
        slots: again || written.some((step) => step.bothSlots) ? 'both' : 'one',
        steps: written,
      },
    ];
  });
}

/** The same step twice is one; several files for one partition come in pieces. */
const distinct = (steps: readonly FlashStep[]) =>
  steps.filter((step, i) => steps.findIndex((other) => other.filename === step.filename) === i);

/** What is found out beside the members. */
interface Found {
  readonly warnings: string[];
  readonly missing: MissingFile[];
}

function memberOf(
  target: Target,
  files: readonly PackageFile[],
  folder: string,
  ports: Ports,
  { warnings, missing }: Found,
): ImageMember | null {
  const steps = distinct(target.steps);
  const step = steps[0]!;
  const found = files.filter((file) => file.name === folder + step.filename || file.name === step.filename);
  if (found.length === 0) {
    missing.push({ partition: target.partition, file: step.filename });
    warnings.push(`${target.partition}: the list names ${step.filename}, which is not there`);
    return null;
  }
  const file = found[0]!;
  const conflict = steps.find((other) => other.filename === step.filename && other.md5 !== step.md5);
  if (!step.md5) warnings.push(`${target.partition}: the list gives no MD5 of ${step.filename}`);
  return {
    partition: target.partition,
    name: file.name,
    size: file.size,
    packedBytes: file.size,
    crc32: file.crc32,
    slots: target.slots,
    hashStated: step.md5 !== null,
    async open({ signal }) {
      if (steps.length > 1)
        throw new EternoError(
          'unsupported',
          `${target.partition} comes in ${steps.length} pieces, which are not put together here`,
          {
            file: file.name,
          },
        );
      if (found.length > 1 || conflict)
        throw new EternoError('duplicate', `${step.filename} stands in the package more than once`);
      const opened = await file.open(signal);
      return {
        source: opened.source,
        async check(stop) {
          await opened.check(stop);
          if (step.md5) await checkMd5(opened.source, step.md5, ports, stop);
        },
      };
    },
  };
}

async function checkMd5(
  source: ByteSource,
  expected: string,
  ports: Ports,
  signal: AbortSignal | undefined,
): Promise<void> {
  const got = await digestOfSource(ports.digests, 'md5', source, signal);
  if (got !== expected)
    throw new EternoError('bad-hash', `${source.name} does not have the MD5 that the list states`, {
      file: source.name,
      details: { expected, got },
    });
}

/** What the list's header says of the build; a value that reads as a fingerprint is one. */
function buildOfList({ about }: FlashList): Partial<PackageBuild> {
  for (const { value } of about) {
    const parts = splitFingerprint(value);
    if (parts)
      return {
        fingerprint: value,
        buildId: parts.id,
        incrementalVersion: parts.incremental,
        devices: [parts.device],
      };
  }
  const model = about.find(({ key }) => /model|product/.test(key))?.value;
  return model ? { devices: [model] } : {};
}

export async function openFlashList(
  files: readonly PackageFile[],
  { file, list }: FoundList,
  ports: Ports,
  watch: Watch,
): Promise<OpenedPackage> {
  const warnings: string[] = [];
  const missing: MissingFile[] = [];
  const folder = file.name.slice(0, file.name.length - baseName(file.name).length);
  const targets = targetsOf(list);
  const members = targets.flatMap(
    (target) => memberOf(target, files, folder, ports, { warnings, missing }) ?? [],
  );
  const stated = buildOfList(list);
  const spoken = await buildOfMembers(members, ports, watch);
  if (stated.fingerprint && spoken?.build.fingerprint && stated.fingerprint !== spoken.build.fingerprint)
    warnings.push(`the list speaks of ${stated.fingerprint}, ${spoken.from} of ${spoken.build.fingerprint}`);
  const both = targets.filter((target) => target.slots === 'both').map((target) => target.partition);
  const evidence = [
    `${file.name} lists ${list.steps.length} writes: a flash-list package`,
    `${list.steps.filter((step) => step.md5).length} of them with an MD5`,
    both.length > 0 ? `both slots are written for ${both.join(', ')}` : 'one slot is written',
  ];
  if (spoken?.build.fingerprint) evidence.push(`${spoken.from} names the build in its verified-boot data`);
  return memberPackage(
    members,
    { kind: 'flash-list', evidence, warnings, missing, build: mergeBuilds(spoken?.build ?? {}, stated) },
    ports,
  );
}
