import { join } from 'node:path';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { EternoError } from '@/core/errors';
import type { HandsetProfile, HandsetState, ImageFacts, Slot } from '@/core/handset/state';
import { SLOTS } from '@/core/handset/state';
import { unslotted } from '@/core/text/partition-names';
import { isKnown } from '@/core/ways/speak';
import type { WayValues } from '@/core/ways/way-kinds';
import { WAY_IDS } from '@/core/ways/way-kinds';
import { readSecret, updateHandset } from '@/server/repositories/handset-repository';
import { recordBuild } from '@/server/repositories/image-repository';
import { now } from '@/server/services/clock';
import type { OwnScene } from '@/server/services/own-scene';
import { ownScene } from '@/server/services/own-scene';
import { StandInStore } from '@/stand-in/stand-in-store';
import { SMALL_BYTES } from './demo-images';
import { writeWholePackage } from './demo-package';
import { writeDownloadPage } from './demo-page';
import { layOldFiles } from './old-files';
import { buildOf, kitOf, OwnImages } from './own-images';
import { copyOwnStore } from './own-store';

/*
 * A copy of a handset of one's own as a world of practice: its records and shelves, and a stand-in with its builds,
 * slots, images and ways as they are known.
 */

export interface OwnWish {
  readonly handsetId: string;
  /** The data folder that it is copied from. */
  readonly from: string;
  /** This world's own data folder. */
  readonly dataDir: string;
  /** Where the packages of its builds come to lie. */
  readonly packages: string;
}

/** The stand-in's name. */
const OWN_PROFILE = 'own';
/** No more partitions than this are played. */
const MOST_PARTITIONS = 40;
/** What a stand-in takes at once; larger images come in pieces. Bytes. */
const MOST_AT_ONCE = 256 * 1024 * 1024;

/** The partitions that are played: those that the planner knows, and those of a whole build. */
function partitionsOf({ context: { profile, start }, bench }: OwnScene): readonly string[] {
  const inBuilds = bench.packages
    .filter(({ report }) => report.build.fingerprint === start.builds[start.active])
    .flatMap(({ report }) => report.images.map(({ partition }) => partition));
  const known = [...Object.keys(profile.partitionBytes), 'system', 'bootloader', 'radio', ...inBuilds];
  return [...new Set(known)].slice(0, MOST_PARTITIONS);
}

/** The size of each partition, as it was read, or as its largest image needs it; bytes. */
function roomFor(
  { subject }: OwnScene,
  images: readonly (readonly [partition: string, bytes: Uint8Array])[],
): Readonly<Record<string, number>> {
  const room: Record<string, number> = {};
  for (const [name, { length }] of images) {
    const partition = unslotted(name);
    const told = subject.facts.typed.partitions[partition]?.size ?? 0;
    room[partition] = Math.max(room[partition] ?? SMALL_BYTES, told, length);
  }
  return room;
}

/** All that its sheet says. */
function waysOf({ subject }: OwnScene): WayValues {
  const known = WAY_IDS.flatMap((id) => {
    const way = subject.ways(id);
    return isKnown(way) ? [[id, way.value] as const] : [];
  });
  return Object.fromEntries(known) as WayValues;
}

/** What the records say of an image counts where its bytes do not say it themselves. */
function asRecorded(
  looked: HandsetState['images'],
  { images: planned }: HandsetState,
): HandsetState['images'] {
  const both = Object.entries(looked).map(([name, facts]): [string, ImageFacts] => {
    const told = planned[name];
    return [
      name,
      told
        ? {
            ...facts,
            fingerprint: facts.fingerprint ?? told.fingerprint,
            patchedBy: facts.patchedBy ?? told.patchedBy,
            broken: told.broken,
          }
        : facts,
    ];
  });
  return Object.fromEntries(both);
}

/** The build that comes next: the one that is known, else one of a month later that nobody has. */
function nextOf(
  { context }: OwnScene,
  here: string,
): { readonly name: string; readonly level: string | null } {
  const [known] = context.incrementalTo;
  if (known !== undefined) return { name: known, level: null };
  const { brand, product, device, release, id, incremental, type, tags } = splitFingerprint(here)!;
  const month = new Date(Date.parse(`${buildOf(here, context.profile).patchLevel}T00:00:00Z`));
  month.setUTCMonth(month.getUTCMonth() + 1);
  return {
    name: `${brand}/${product}/${device}:${release}/${id}.NEXT/${incremental}1:${type}/${tags}`,
    level: month.toISOString().slice(0, 10),
  };
}

/** Makes the copy. @throws {EternoError} `refused` where too little is known of the handset */
export async function makeOwnWorld({ handsetId, from, dataDir, packages }: OwnWish): Promise<void> {
  await copyOwnStore(from, handsetId);
  await updateHandset(handsetId, { link: 'stand-in', profile: OWN_PROFILE });
  const own = await ownScene(handsetId);
  if (typeof own === 'string') throw new EternoError('refused', own);
  const { profile: told, start } = own.context;
  const here = start.builds[start.active];
  const next = nextOf(own, here);
  const builds =
    next.level === null
      ? told.builds
      : { ...told.builds, [next.name]: { ...told.builds[here]!, patchLevel: next.level } };
  const named: HandsetProfile = { ...told, builds };
  await makeStandInOf(
    own,
    { ...named, serial: (await readSecret(handsetId, 'serial')) ?? 'PRACTICE' },
    {
      dataDir,
      packages,
      here,
      next: next.name,
    },
  );
  if (next.level !== null) {
    const { product, device, buildId, patchLevel } = buildOf(next.name, named);
    const about = { fingerprint: next.name, product, device, buildId, patchLevel };
    await recordBuild({ ...about, publishedAt: now() });
  }
}

interface At {
  readonly dataDir: string;
  readonly packages: string;
  /** Fingerprints of the build that runs, and of the one that comes next. */
  readonly here: string;
  readonly next: string;
}

async function makeStandInOf(own: OwnScene, named: HandsetProfile, at: At): Promise<void> {
  const { start } = own.context;
  const { kit, zip } = await kitOf(own);
  const images = new OwnImages(own, named, kit);
  const partitions = partitionsOf(own);
  const lying = new Map<string, Uint8Array>();
  const slots: readonly Slot[] = named.slotCount === 2 ? SLOTS : ['a'];
  for (const slot of slots)
    for (const partition of partitions)
      lying.set(`${partition}_${slot}`, await images.lying(partition, slot, start));
  const whole = await images.whole(partitions, at.here);
  const wholeNext = await images.whole(partitions, at.next);
  const profile: HandsetProfile = {
    ...named,
    id: OWN_PROFILE,
    ownWays: waysOf(own),
    partitionBytes: roomFor(own, [...lying, ...whole, ...wholeNext]),
    logical: named.hasUserspace ? ['system'] : [],
    maxDownloadBytes: Math.min(named.maxDownloadBytes, MOST_AT_ONCE),
  };
  const folder = join(at.dataDir, 'stand-in', OWN_PROFILE);
  await StandInStore.create(folder, profile, lying, start);
  const store = new StandInStore(folder);
  const looked = await store.readState();
  await store.writeState({ ...looked, images: asRecorded(looked.images, start) });
  if (start.update === null && start.snapshot === 'none')
    await store.writeOffer({ build: at.next, whole: true }, wholeNext);
  const stock = whole.get(named.rootPartition);
  if (stock)
    await layOldFiles(store, { partition: named.rootPartition, stock, kit, kitZip: zip, now: now() });
  await writePackages(profile, at, [
    [at.here, whole],
    [at.next, wholeNext],
  ]);
}

async function writePackages(
  profile: HandsetProfile,
  { dataDir, packages }: At,
  wholes: readonly (readonly [string, ReadonlyMap<string, Uint8Array>])[],
): Promise<void> {
  const lines = [];
  for (const [fingerprint, images] of wholes) {
    const build = buildOf(fingerprint, profile);
    const file = `${build.product}-${build.buildId}-practice.zip`;
    const { bootloader, baseband } = profile;
    await writeWholePackage(join(packages, file), build, { bootloader, baseband }, images);
    lines.push({ build, brand: splitFingerprint(fingerprint)!.brand, file });
  }
  await writeDownloadPage(dataDir, lines);
}
