import { rm } from 'node:fs/promises';
import { memorySink } from '@/core/bytes/image-sink';
import type { ByteSource } from '@/core/bytes/byte-source';
import { memorySource } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { compareBuilds, onSlot } from '@/core/handset/builds';
import type { UpdateOffer } from '@/core/handset/menus';
import type { HandsetOperation } from '@/core/handset/operate';
import { operate } from '@/core/handset/operate';
import type { WholeBuild } from '@/core/handset/operate-writes';
import type { Panel } from '@/core/handset/screen';
import type { HandsetProfile, HandsetState, ImageFacts, Slot } from '@/core/handset/state';
import { otherSlot } from '@/core/handset/state';
import { writeTar } from '@/core/formats/tar/writer';
import { readKit } from '@/core/kits/read-kit';
import { openPackage } from '@/core/packages/open-package';
import { filesOfZip, findFile } from '@/core/packages/package-files';
import type { ScriptTargets } from '@/core/packages/script-targets';
import { patchImage } from '@/core/patch/patch-image';
import { openFile } from '@/platform/node/file-source';
import { nodePorts } from '@/platform/node/node-ports';
import type { OwnTime } from './own-time';
import type { StandInStore } from './stand-in-store';

/* What the simulated handset does with whole builds: real images, really written to its partitions. */

const UPDATE_MS = 6000;
const INSTALL_MS = 2000;
const PART_MS = 1000;

/** The handset while something of its own works on its partitions. */
export interface OnDisk {
  readonly profile: HandsetProfile;
  readonly state: HandsetState;
  readonly store: StandInStore;
  readonly time: OwnTime;
  readonly run: (operation: HandsetOperation) => void;
  readonly show: (change: Partial<Panel>) => void;
}

/** @throws {EternoError} `handset-refused` */
function check({ profile, state }: Pick<OnDisk, 'profile' | 'state'>, operation: HandsetOperation): void {
  const result = operate(profile, state, operation);
  if (!result.ok)
    throw new EternoError('handset-refused', result.reason, { details: { reason: result.code ?? 'other' } });
}

/** The update that its maker has out for it, if that is newer than what it runs. */
export async function offerOf(
  store: StandInStore,
  profile: HandsetProfile,
  state: HandsetState,
): Promise<UpdateOffer | null> {
  const offer = await store.readOffer();
  const at = state.running?.build ?? state.builds[state.active];
  return offer && compareBuilds(profile, offer.build, at) > 0 ? offer : null;
}

/** Takes the update that is offered, onto the slot it goes to. @throws {EternoError} `handset-refused` */
export async function takeUpdate(
  { profile, state, store, time, run, show }: OnDisk,
  whole: boolean,
): Promise<void> {
  const offer = await store.readOffer();
  if (!offer) throw new EternoError('handset-refused', 'no update is out');
  const found: Record<string, ImageFacts> = {};
  for (const partition of Object.keys(profile.partitionBytes)) {
    const facts = await store.lookAtOffer(partition);
    if (facts) found[partition] = facts;
  }
  const operation = {
    do: 'take-update',
    update: { build: offer.build, images: found, incremental: !whole },
  } as const;
  check({ profile, state }, operation);
  show({ busy: 'taking the update', said: null });
  await time.sleep(UPDATE_MS);
  const slot = profile.slotCount === 2 ? otherSlot(state.active) : state.active;
  for (const partition of Object.keys(found)) await store.copyOffer(partition, onSlot(partition, slot));
  run(operation);
  show({ busy: null, offer: null, restartOffered: profile.slotCount === 2 });
}

/**
 * A kit's package from the menu of a custom recovery: it patches what lies on the active slot.
 * @throws {EternoError} `handset-refused`
 */
export async function installZip(
  { profile, state, store, time, run, show }: OnDisk,
  path: string,
): Promise<void> {
  const key = onSlot(profile.rootPartition, state.active);
  const stock = await store.readImage(key);
  const before = state.images[key]!;
  check({ profile, state }, { do: 'install-zip', partition: profile.rootPartition, image: before });
  show({ busy: `installing ${path.split('/').at(-1)}`, said: null });
  const { kit } = await readKit(memorySource(await store.readFile(path), path), nodePorts);
  const patched = await patchImage(memorySource(stock, profile.rootPartition), kit, nodePorts);
  await time.sleep(INSTALL_MS);
  const image = await store.writeImage(key, patched.bytes);
  run({ do: 'install-zip', partition: profile.rootPartition, image });
  show({ busy: null, said: `${kit.name} ${kit.version} is installed.` });
}

/**
 * The kit's own app patches the newest image on the storage with the kit that lies there, into the folder of
 * downloads.
 * @throws {EternoError} what patching throws
 */
export async function patchFile({ store, time, show }: OnDisk): Promise<void> {
  const files = (await store.listFiles('/')).sort((one, two) => two.at - one.at).map(({ path }) => path);
  const [image, zip] = [
    files.find((path) => path.endsWith('.img') && !path.includes('/Download/')),
    files.find((path) => path.endsWith('.zip')),
  ];
  if (image === undefined || zip === undefined)
    throw new EternoError('handset-refused', 'there is no image and kit on the storage');
  show({ busy: `patching ${image.split('/').at(-1)}`, said: null });
  const { kit } = await readKit(memorySource(await store.readFile(zip), zip), nodePorts);
  const made = await patchImage(memorySource(await store.readFile(image), image), kit, nodePorts);
  await time.sleep(INSTALL_MS);
  await store.pushFile(`/storage/Download/patched-${made.sha256.slice(0, 8)}.img`, made.bytes);
  show({ busy: null, said: 'The patched file is among the downloads.' });
}

/**
 * Root installs a package that lies on the storage, onto the slot it runs from: a kit's patches, any other does what
 * its script says.
 * @throws {EternoError} `handset-refused`, what patching throws
 */
export async function installFromInside(disk: OnDisk, path: string): Promise<void> {
  const { state, store } = disk;
  if (state.running === null) throw new EternoError('handset-refused', 'no system runs');
  const source = memorySource(await store.readFile(path), path);
  const { report } = await openPackage(source, nodePorts);
  return report.script ? installScript(disk, source, report.script) : installKit(disk, source);
}

async function installKit(disk: OnDisk, source: ByteSource): Promise<void> {
  const { profile, state, store, time, run, show } = disk;
  const key = onSlot(profile.rootPartition, state.running!.slot);
  const before = state.images[key]!;
  check(disk, { do: 'patch-from-inside', which: 'running slot', image: before });
  show({ busy: `installing ${source.name.split('/').at(-1)}`, said: null });
  const { kit } = await readKit(source, nodePorts);
  const patched = await patchImage(
    memorySource(await store.readImage(key), profile.rootPartition),
    kit,
    nodePorts,
  );
  await time.sleep(INSTALL_MS);
  const image = await store.writeImage(key, patched.bytes);
  run({ do: 'patch-from-inside', which: 'running slot', image });
  show({ busy: null, said: `${kit.name} ${kit.version} is installed.` });
}

/** What the lines of a script put where; a member that is not there is passed over, as such scripts do. */
async function installScript(disk: OnDisk, source: ByteSource, { targets }: ScriptTargets): Promise<void> {
  const { state, store, time, run, show } = disk;
  const files = filesOfZip(await nodePorts.openZip(source));
  show({ busy: `installing ${source.name.split('/').at(-1)}`, said: null });
  await time.sleep(INSTALL_MS);
  for (const { partition, member } of targets) {
    const key = onSlot(partition, state.running!.slot);
    const file = member === null ? null : findFile(files, member);
    if (!file || state.images[key] === undefined) continue;
    const opened = await file.open();
    const bytes = await opened.source.read(0, opened.source.size);
    check(disk, { do: 'write', partition: key, image: state.images[key] });
    const image = await store.writeImage(key, bytes);
    run({ do: 'write', partition: key, image });
  }
  show({ busy: null, said: 'It is done.' });
}

/**
 * Its data partition as one file: what lies on the storage, and the settings of its system.
 * @throws {EternoError} `handset-refused`
 */
export async function imageOfData(disk: OnDisk): Promise<Uint8Array<ArrayBuffer>> {
  const { state, store } = disk;
  check(disk, { do: 'image-data' });
  const members = [
    {
      name: 'system/settings.json',
      bytes: new TextEncoder().encode(
        JSON.stringify({ settings: state.settings, modules: state.modules.ids }),
      ),
    },
  ];
  for (const { path } of await store.listFiles('/'))
    members.push({ name: `data${path}`, bytes: new Uint8Array(await store.readFile(path)) });
  return writeTar(members);
}

/** The images of a package that this handset has partitions for, taken out whole. */
async function imagesOf(
  profile: HandsetProfile,
  path: string,
): Promise<{ build: string; images: ReadonlyMap<string, ByteSource> }> {
  const source = await openFile(path);
  try {
    const opened = await openPackage(source, nodePorts);
    const { build, images, incremental } = opened.report;
    if (incremental || build.fingerprint === null)
      throw new EternoError('handset-refused', 'this is no whole package of a build');
    if (!build.devices.includes(profile.product))
      throw new EternoError('handset-refused', 'this package is for another handset');
    const taken = new Map<string, ByteSource>();
    for (const { partition } of images) {
      if (!(partition in profile.partitionBytes)) continue;
      const sink = memorySink(partition);
      await opened.take(partition, sink);
      taken.set(partition, memorySource(sink.bytes, partition));
    }
    return { build: build.fingerprint, images: taken };
  } finally {
    await source.close();
  }
}

/**
 * A package that arrived by sideload, judged and written.
 * @throws {EternoError} `handset-refused` and what the readers throw
 */
export async function sideload(disk: OnDisk, path: string): Promise<void> {
  const { profile, state, store, show } = disk;
  show({ busy: 'looking at the package', said: null });
  try {
    const { build, images } = await imagesOf(profile, path);
    const slot = profile.slotCount === 2 ? otherSlot(state.active) : state.active;
    await writeWhole(disk, build, images, slot, (whole) => ({ do: 'sideload', whole }));
  } finally {
    show({ busy: null });
    await store.dropIncoming();
  }
}

/**
 * One image of a set, as it arrived in download mode: looked at, judged and written before the next one
 * comes.
 * @throws {EternoError} `handset-refused`; it keeps what it had
 */
export async function writeSetPart(disk: OnDisk, partition: string): Promise<void> {
  const { state, store, time, run, show } = disk;
  const path = store.setPartPath(partition);
  const source = await openFile(path);
  try {
    const image = await store.lookAt(source, partition);
    const operation = { do: 'write-set-part', partition, image } as const;
    check(disk, operation);
    show({ busy: `writing ${partition}` });
    await time.sleep(PART_MS);
    await store.placeImage(onSlot(partition, state.active), source);
    run(operation);
  } finally {
    show({ busy: null });
    await source.close();
    await rm(path, { force: true });
  }
}

/**
 * All of a set is there: what it was, by its system or what carries root.
 * @throws {EternoError} `handset-refused`
 */
export function endSet(disk: OnDisk, partitions: ReadonlySet<string>, keepData: boolean): void {
  const { profile, state, run } = disk;
  const build = ['system', profile.rootPartition]
    .filter((partition) => partitions.has(partition))
    .map((partition) => state.images[onSlot(partition, state.active)]?.fingerprint ?? null)
    .find((fingerprint) => fingerprint !== null);
  const operation = { do: 'end-set', build: build ?? null, keepData } as const;
  check(disk, operation);
  run(operation);
}

async function writeWhole(
  { profile, state, store, time, run, show }: OnDisk,
  build: string,
  images: ReadonlyMap<string, ByteSource>,
  slot: Slot,
  operation: (whole: WholeBuild) => HandsetOperation,
): Promise<void> {
  const facts: Record<string, ImageFacts> = {};
  for (const [partition, source] of images) facts[partition] = await store.lookAt(source, partition);
  const wrong = Object.entries(facts).find(([, image]) => image.broken !== null);
  if (wrong) throw new EternoError('handset-refused', `${wrong[0]}: ${wrong[1].broken}`);
  const whole = operation({ build, images: facts });
  check({ profile, state }, whole);
  for (const [partition, source] of images) {
    show({ busy: `writing ${partition}` });
    await time.sleep(UPDATE_MS / images.size);
    await store.placeImage(onSlot(partition, slot), source);
  }
  run(whole);
}
