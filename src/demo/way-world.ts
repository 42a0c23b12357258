import { SET_PARTS } from '@/core/backups/backup-set';
import { join } from 'node:path';
import { memorySource } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import type { HandsetProfile, HandsetState } from '@/core/handset/state';
import { readKit } from '@/core/kits/read-kit';
import type { Kit } from '@/core/kits/kit';
import { TROUBLE_WORLD } from '@/core/practice/scene';
import type { WayValues } from '@/core/ways/way-kinds';
import { concatBytes } from '@/core/bytes/bytes';
import { writeZip } from '@/platform/any/write-zip';
import { writeFileWhole } from '@/platform/node/file-sink';
import { nodePorts } from '@/platform/node/node-ports';
import { patchImage } from '@/core/patch/patch-image';
import { addSlotContent } from '@/server/repositories/handset-repository';
import { insertBackup, insertEdge, insertRecovery } from '@/server/repositories/record-repository';
import { insertWay } from '@/server/repositories/way-repository';
import { storeImage, storeKit } from '@/server/services/image-service';
import { storeInstall } from '@/server/services/install-service';
import type { WayId, WayValue } from '@/core/ways/way-kinds';
import { StandInStore } from '@/stand-in/stand-in-store';
import { inOnePiece, keepPatched, sha256, wholeOf } from './demo-handsets';
import { lifeboatOf, plainOf, SMALL_BYTES } from './demo-images';
import { burrowKit, KIT_FILE_NAME, kernelKit } from './demo-kit';
import { modulesOn } from './demo-modules';
import { setName, wholeName, writeSetPackage, writeWholePackage } from './demo-package';
import { putOnBench } from './demo-records';
import type { BuildImages } from './demo-stand-in';
import { makeStandIn, profileOf } from './demo-stand-in';
import { layOldFiles } from './old-files';
import { WAY_HANDSETS } from './way-handsets';
import type { DemoBuild, DemoHandset } from './world';
import { at, DEMO_NOW, fingerprintOf } from './world';

/* A world with one handset, at the beginning of one piece of work: its stand-in, its packages, what is noted. */

interface Start {
  readonly handset: keyof typeof WAY_HANDSETS;
  /** It is locked at the beginning. */
  readonly locked?: true;
  /** It runs with root, the patched image on disk and kept. */
  readonly rooted?: true;
  /** The next build is offered by its own updater. */
  readonly offered?: true;
  /** A recovery for it is on the shelf. */
  readonly recovery?: true;
  /** The newest platform level whose storage it opens, where it is not its handset's own. */
  readonly recoveryOpens?: number;
  /** Which kit is on the shelf; a ready-made image lies among the packages where it is none. */
  readonly kit?: 'kernel' | 'none';
  /** The recovery comes as a package too, and is kept. */
  readonly installer?: true;
  readonly state?: Partial<HandsetState>;
  readonly profile?: Partial<HandsetProfile>;
  readonly more?: Readonly<Record<string, string>>;
  /** What somebody says of its model, with who. */
  readonly said?: WayValues;
  /** Only the build before the installed one has a bootloader that takes images that are not the maker's. */
  readonly shutsOut?: true;
  /** The build before the installed one is let in by sideload, and noted so. */
  readonly wayDown?: true;
  /** Its builds have a vendor_boot too. */
  readonly vendorBoot?: true;
}

const { weir, hut } = WAY_HANDSETS;
const open = fingerprintOf(hut.installed, hut.brand);
const inside = (lasts: 'until restart' | 'lasting'): Start => ({
  handset: 'hut',
  locked: true,
  profile: { openBuilds: [open], ownWays: { 'inside-lasts': lasts } },
  state: { unlockSwitch: 'absent' },
  said: {
    'open-builds': [hut.installed.buildId],
    'inside-lasts': lasts,
    'inside-restart': 'failed',
    'inside-start': 'touch “Root in this system”',
    'inside-undo': 'touch “Take root off again”',
  },
});
const FROM_MEMORY = { profile: { startsOnce: true }, more: { startsOnce: 'true' } } as const;

const STARTS: Readonly<Record<number, Start>> = {
  1: { handset: 'barn', rooted: true },
  2: { handset: 'weir', shutsOut: true, recovery: true },
  3: { handset: 'weir', locked: true, recovery: true, recoveryOpens: 33, state: { unlockSwitch: 'off' } },
  4: { handset: 'weir', recovery: true },
  5: { handset: 'ridge', rooted: true, offered: true },
  6: { handset: 'weir', kit: 'none', recovery: true },
  7: { handset: 'ridge', ...FROM_MEMORY },
  8: { handset: 'spare', locked: true, state: { unlockSwitch: 'off' } },
  9: inside('until restart'),
  10: { handset: 'weir', kit: 'kernel', recovery: true },
  11: { handset: 'barn', locked: true },
  12: { handset: 'weir', rooted: true, recovery: true },
  13: { handset: 'north', rooted: true },
  14: { handset: 'weir', rooted: true, recovery: true, ...FROM_MEMORY },
  15: { handset: 'north', rooted: true },
  16: { handset: 'spare', locked: true, wayDown: true },
  17: inside('lasting'),
  18: { handset: 'ridge', rooted: true },
  19: { handset: 'weir', rooted: true, recovery: true, installer: true },
  20: { handset: 'spare', locked: true, state: { unlockSwitch: 'off' } },
  // where trouble is put in: one that can have every fault
  [TROUBLE_WORLD]: { handset: 'ridge', rooted: true, offered: true, vendorBoot: true },
};

export const isWay = (n: number): boolean => Object.hasOwn(STARTS, n);

const ROOTED = ['2026-10-25T11:00:00Z', 'proven', 'rooted by the club'] as const;

function handsetOf(start: Start): DemoHandset {
  const base: DemoHandset = WAY_HANDSETS[start.handset];
  const [older, newer] = base.builds;
  return {
    ...base,
    ...(start.shutsOut && older && newer
      ? { installed: newer, levels: { [newer.buildId]: base.fuse + 1 } }
      : {}),
    unlocked: start.locked !== true,
    unlockSwitch: start.state?.unlockSwitch === 'off' || start.handset === 'hut' ? 'off' : 'on',
    root: start.rooted ? [...base.root, ROOTED] : base.root,
    more: { ...base.more, ...start.more },
  };
}

/**
 * Makes the world of a piece of work.
 * @param withOldFiles files of months ago lie on the handset's storage
 * @throws {EternoError} `usage` for a number that none has
 */
export async function makeWayWorld(
  n: number,
  dataDir: string,
  packages: string,
  withOldFiles = false,
): Promise<void> {
  const start = STARTS[n];
  if (!start) throw new EternoError('usage', `there is no piece of work ${n} that can be begun here`);
  const handset = handsetOf(start);
  const { installed } = handset;
  const { before, after } = besidesIt(handset);
  const made = new Map<string, ReturnType<typeof wholeOf>>();
  const imagesOf = (build: DemoBuild) => {
    const known = made.get(build.buildId) ?? imagesOfWhole(start, handset, build);
    made.set(build.buildId, known);
    return known;
  };
  const { kit, kitSha, bytes } = await shelveKit(start, packages);
  for (const build of buildsThere(start, handset))
    await writePackage(packages, handset, build, await imagesOf(build));
  const kept = start.rooted
    ? await keepPatched({
        images: await imagesOf(installed),
        partition: handset.rootPartition,
        from: packageName(handset, installed),
        kit,
        kitSha,
      })
    : null;
  const slot = handset.slot === 'b' ? 'b' : 'a';
  await makeStandIn(dataDir, {
    handset,
    builds: { a: installed, b: installed },
    active: slot,
    imagesOf,
    instead: kept ? new Map([[`${handset.rootPartition}_${slot}`, kept.bytes]]) : new Map(),
    rooted: kept !== null,
    offer: start.offered ? after : null,
    state: { ...(kept ? { modules: modulesOn(handset.profile) } : {}), ...start.state },
    profile: specialOf(start, handset, before),
  });
  await putOnBench(handset, 0);
  if (kept) await readBackOf(handset, kept.patched);
  if (start.kit === 'none') await readyMade(packages, handset, (await imagesOf(installed)).get('boot')!);
  await noteWhatIsKnown(start, handset, before);
  if (start.installer) await shelveInstaller(packages);
  if (withOldFiles) await layOn(dataDir, handset, await imagesOf(before ?? installed), { kit, bytes });
}

/** Files of months ago on its storage. */
function layOn(
  dataDir: string,
  { profile, rootPartition: partition }: DemoHandset,
  older: BuildImages,
  { kit, bytes: kitZip }: { readonly kit: Kit; readonly bytes: Uint8Array },
): Promise<void> {
  const stock = older.get(partition)!;
  const store = new StandInStore(join(dataDir, 'stand-in', profile));
  return layOldFiles(store, { partition, stock, kit, kitZip, now: at(DEMO_NOW) });
}

/** The builds before and after the one that is installed. */
function besidesIt({ builds, installed }: DemoHandset) {
  const here = builds.indexOf(installed);
  return { before: builds[here - 1] ?? null, after: builds[here + 1] ?? null };
}

/** What is otherwise on this one than on every handset of its kind. */
const specialOf = (
  start: Start,
  handset: DemoHandset,
  before: DemoBuild | null,
): Partial<HandsetProfile> => ({
  ...start.profile,
  ...fromBefore(start, handset, before),
  ...(start.vendorBoot
    ? { partitionBytes: { ...profileOf(handset).partitionBytes, vendor_boot: SMALL_BYTES } }
    : {}),
});

async function imagesOfWhole(
  { vendorBoot }: Start,
  handset: DemoHandset,
  build: DemoBuild,
): Promise<BuildImages> {
  const images = await wholeOf(handset, build);
  return vendorBoot
    ? new Map([...images, ['vendor_boot', await plainOf('vendor_boot', build, handset.brand)]])
    : images;
}

/** The patched image was read back on the slot that runs. */
const readBackOf = ({ id, slot, slotCount, rootPartition }: DemoHandset, sha: string) =>
  addSlotContent({
    handsetId: id,
    slot: slotCount === 1 ? '-' : (slot ?? 'a'),
    partition: rootPartition,
    sha256: sha,
    certainty: 'read',
    reason: 'read back with root',
    at: at(ROOTED[0]),
  });

/** The builds whose packages lie there. */
function buildsThere(start: Start, { builds, installed }: DemoHandset): readonly DemoBuild[] {
  const here = builds.indexOf(installed);
  const before = start.wayDown || start.shutsOut ? builds.slice(Math.max(here - 1, 0), here) : [];
  return [installed, ...builds.slice(here + 1, here + 2), ...before];
}

/** What the build before the installed one is good for. */
function fromBefore(
  { wayDown, shutsOut }: Start,
  { installed, brand }: DemoHandset,
  before: DemoBuild | null,
): Partial<HandsetProfile> {
  if (!before) return {};
  const to = fingerprintOf(before, brand);
  return {
    ...(wayDown ? { sideloadsDown: [{ from: fingerprintOf(installed, brand), to }] } : {}),
    ...(shutsOut ? { looseBuilds: [to] } : {}),
  };
}

/** The kit on the shelf; another one's is only for what came ready-made. */
async function shelveKit(
  start: Start,
  packages: string,
): Promise<{ kit: Kit; kitSha: string; bytes: Uint8Array }> {
  const bytes = await (start.kit === 'kernel' ? kernelKit() : burrowKit());
  const kitSha = sha256(bytes);
  if (start.kit !== 'none') {
    await writeFileWhole(join(packages, KIT_FILE_NAME), bytes);
    await storeKit(kitSha, inOnePiece(bytes), KIT_FILE_NAME);
  }
  return { kit: (await readKit(memorySource(bytes, KIT_FILE_NAME), nodePorts)).kit, kitSha, bytes };
}

const inSets = (handset: DemoHandset) => handset.more?.['downloadMode'] === 'true';
const packageName = (handset: DemoHandset, build: DemoBuild) =>
  inSets(handset) ? setName(build) : wholeName(build);

function writePackage(
  packages: string,
  handset: DemoHandset,
  build: DemoBuild,
  images: Awaited<ReturnType<typeof wholeOf>>,
): Promise<void> {
  const path = join(packages, packageName(handset, build));
  const { bootloader, baseband } = handset;
  return inSets(handset)
    ? writeSetPackage(path, setName(build), images)
    : writeWholePackage(path, build, { bootloader, baseband }, images);
}

/** A boot image that somebody else patched, as it is handed round: under a name that says little. */
async function readyMade(packages: string, handset: DemoHandset, stock: Uint8Array): Promise<void> {
  const { kit } = await readKit(memorySource(await burrowKit(), KIT_FILE_NAME), nodePorts);
  const theirs: Kit = { ...kit, id: 'oxbow', name: 'Oxbow', version: '3.1' };
  const { bytes } = await patchImage(memorySource(stock, 'boot'), theirs, nodePorts);
  await writeFileWhole(join(packages, `boot-for-${handset.installed.device}-ready.img`), bytes);
}

/** The recovery as a package that root can install: a script, and its image. */
async function shelveInstaller(packages: string): Promise<void> {
  const name = 'lifeboat-3.8-reed10-installer.zip';
  const script = '#!/sbin/sh\ndd if=recovery.img of=/dev/block/by-name/recovery\n';
  const recovery = await lifeboatOf(weir.installed, '3.8', 34);
  const parts: Uint8Array[] = [];
  await writeZip(
    [
      {
        name: 'META-INF/com/google/android/update-binary',
        bytes: new TextEncoder().encode(script),
        stored: false,
      },
      { name: 'recovery.img', bytes: recovery, stored: true },
    ],
    async (piece) => void parts.push(piece),
  );
  const bytes = concatBytes(parts);
  await writeFileWhole(join(packages, name), bytes);
  await storeInstall(sha256(bytes), inOnePiece(bytes), name);
}

async function noteWhatIsKnown(start: Start, handset: DemoHandset, before: DemoBuild | null): Promise<void> {
  const { id, installed } = handset;
  const when = at('2026-11-09T19:00:00Z');
  await insertBackup({
    handsetId: id,
    what: 'files',
    place: 'off the handset',
    note: 'on the club’s disk',
    parts: SET_PARTS.files,
    at: when,
  });
  const said: WayValues =
    start.shutsOut && before ? { ...start.said, 'loose-builds': [before.buildId] } : (start.said ?? {});
  for (const [way, value] of Object.entries(said))
    await insertWay({
      model: installed.device,
      way: way as WayId,
      value: value as WayValue,
      sureness: 'only said',
      source: 'a page that the club keeps, noted by you',
      at: when,
    });
  if (start.recovery) {
    const recovery = await lifeboatOf(weir.installed, '3.8', start.recoveryOpens ?? 34);
    await storeImage(sha256(recovery), inOnePiece(recovery), {
      from: 'file',
      name: 'lifeboat-3.8-reed10.img',
    });
    await insertRecovery({
      name: 'Lifeboat',
      version: '3.8',
      channel: 'stable',
      devices: ['reed10'],
      sdkFrom: 29,
      sdkTo: 34,
      opensUpTo: start.recoveryOpens ?? 34,
      sha256: sha256(recovery),
      note: 'made for the Reed 10',
      addedAt: when,
    });
  }
  if (start.wayDown && before)
    await insertEdge({
      device: installed.device,
      fromBuild: installed.buildId,
      toBuild: before.buildId,
      allowed: 'yes',
      bootloader: null,
      note: 'went through for the club next door',
      at: when,
    });
}
