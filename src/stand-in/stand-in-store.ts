import { unslotted } from '@/core/text/partition-names';
import { constants, copyFile, mkdir, open, readFile, rename, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { ByteSource } from '@/core/bytes/byte-source';
import { memorySource, readPieces } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { lookInside } from '@/core/handset/look-inside';
import type { UpdateOffer } from '@/core/handset/menus';
import type { HandsetProfile, HandsetState, ImageFacts } from '@/core/handset/state';
import { PLAIN_PROFILE } from '@/core/handset/state';
import type { SurpriseId } from '@/core/words/surprises';
import { fileSink, writeFileWhole } from '@/platform/node/file-sink';
import { openFile } from '@/platform/node/file-source';
import { nodePorts } from '@/platform/node/node-ports';

const PARTITION_FILE = /^([a-z][a-z0-9_]{0,62})\.img$/;

export interface Mail {
  readonly from: string;
  readonly folder: 'inbox' | 'junk';
  readonly subject: string;
  readonly text: string;
}

export interface KeptSurprises {
  readonly waiting: readonly SurpriseId[];
  readonly came: readonly SurpriseId[];
}

const MOST_PATH_CHARACTERS = 60;

/** @throws {EternoError} `unsafe-path` for what is no absolute path of plain parts */
function encodePath(path: string): string {
  if (
    path.length > MOST_PATH_CHARACTERS ||
    !/^(\/[A-Za-z0-9_.-]+)+$/.test(path) ||
    path.split('/').some((part) => part === '.' || part === '..')
  ) {
    throw new EternoError('unsafe-path', 'a path on the handset is absolute, short and plain');
  }
  return encodeURIComponent(path);
}

/** A partition that is being written: its old content under the new, put in its place when it is done. */
export interface PartitionDraft {
  writeAt(offset: number, bytes: Uint8Array): Promise<void>;
  /** Zeros from there to its end. */
  clearFrom(offset: number): Promise<void>;
  commit(): Promise<void>;
  /** Leaves what lay there; harmless after `commit`. */
  discard(): Promise<void>;
}

/**
 * A stand-in's folder: `profile.json`, `state.json` (replaced whole) and one `PARTITION_SLOT.img` a
 * partition.
 */
export class StandInStore {
  constructor(readonly dir: string) {}

  private async json<T>(name: string): Promise<T> {
    try {
      return JSON.parse(await readFile(/*turbopackIgnore: true*/ join(this.dir, name), 'utf8')) as T;
    } catch (thrown) {
      throw new EternoError('not-found', `the stand-in has no readable ${name}; make the demo data first`, {
        file: name,
        cause: thrown,
      });
    }
  }

  /** What an older Eterno did not ask of a handset is as it commonly is. */
  async readProfile(): Promise<HandsetProfile> {
    return { ...PLAIN_PROFILE, ...(await this.json<HandsetProfile>('profile.json')) };
  }
  readState(): Promise<HandsetState> {
    return this.json('state.json');
  }
  async writeState(state: HandsetState): Promise<void> {
    await writeFileWhole(
      join(this.dir, 'state.json'),
      new TextEncoder().encode(`${JSON.stringify(state, null, 1)}\n`),
    );
  }

  imagePath(partition: string): string {
    if (!PARTITION_FILE.test(`${partition}.img`))
      throw new EternoError('unsafe-path', 'this is no name of a partition');
    return join(this.dir, `${partition}.img`);
  }
  readImage(partition: string): Promise<Uint8Array> {
    return readFile(this.imagePath(partition));
  }
  async writeImage(partition: string, bytes: Uint8Array): Promise<ImageFacts> {
    await writeFileWhole(this.imagePath(partition), bytes);
    return this.look(partition);
  }
  /** The maker's recovery as its system keeps it, to put it back over any other. */
  private stockPath = (partition: string) => `${this.imagePath(partition)}.stock`;
  /** Keeps what lies on a recovery partition, where it is the maker's. */
  async keepStock(partition: string, { recovery, patchedBy, broken }: ImageFacts): Promise<void> {
    if (!/^recovery_[ab]$/.test(partition) || recovery || patchedBy !== null || broken !== null) return;
    await copyFile(this.imagePath(partition), this.stockPath(partition));
  }
  /** Puts the maker's recovery back; null where its system keeps none. */
  async restoreStock(partition: string): Promise<ImageFacts | null> {
    const bytes = await readFile(this.stockPath(partition)).catch(() => null);
    return bytes && this.writeImage(partition, bytes);
  }
  /** Puts an image of any size on a partition that it need not fill. */
  async placeImage(partition: string, source: ByteSource): Promise<void> {
    const sink = fileSink(this.imagePath(partition));
    try {
      await sink.begin(source.size);
      let at = 0;
      for await (const piece of readPieces(source)) {
        await sink.writeAt(at, piece);
        at += piece.length;
      }
      await sink.commit();
    } finally {
      await sink.discard();
    }
  }
  /** Where an image of a firmware set waits until all of it is there. */
  setPartPath(partition: string): string {
    return `${this.imagePath(partition)}.set.part`;
  }
  /** @param roomBytes the partition's size; what its image does not fill is zeros */
  async draft(partition: string, roomBytes: number): Promise<PartitionDraft> {
    const path = this.imagePath(partition);
    const temporary = `${path}.part`;
    await copyFile(path, temporary, constants.COPYFILE_FICLONE);
    const file = await open(/*turbopackIgnore: true*/ temporary, 'r+');
    const size = Math.max(roomBytes, (await file.stat()).size);
    await file.truncate(size);
    return {
      async writeAt(offset, bytes) {
        for (let at = 0; at < bytes.length;)
          at += (await file.write(bytes, at, bytes.length - at, offset + at)).bytesWritten;
      },
      async clearFrom(offset) {
        await file.truncate(Math.min(offset, size));
        await file.truncate(size);
      },
      async commit() {
        await file.close();
        await rename(/*turbopackIgnore: true*/ temporary, path);
      },
      async discard() {
        await file.close().catch(() => undefined);
        await rm(/*turbopackIgnore: true*/ temporary, { force: true });
      },
    };
  }
  /** Looks inside what lies on a partition now. */
  async look(partition: string): Promise<ImageFacts> {
    const source = await openFile(this.imagePath(partition));
    try {
      return await lookInside(source, unslotted(partition), nodePorts);
    } finally {
      await source.close();
    }
  }
  /** Makes the folder anew with a profile, its images and a state that knows what is inside them. */
  static async create(
    dir: string,
    profile: HandsetProfile,
    images: ReadonlyMap<string, Uint8Array>,
    state: Omit<HandsetState, 'images'>,
  ): Promise<void> {
    await rm(dir, { recursive: true, force: true });
    await mkdir(dir, { recursive: true });
    const store = new StandInStore(dir);
    const facts: Record<string, ImageFacts> = {};
    for (const [partition, bytes] of images) {
      facts[partition] = await store.writeImage(partition, bytes);
      await store.keepStock(partition, facts[partition]);
    }
    await writeFileWhole(
      join(dir, 'profile.json'),
      new TextEncoder().encode(`${JSON.stringify(profile, null, 1)}\n`),
    );
    await store.writeState({ ...state, images: facts });
  }
  /** What an image would be on `partition`, before it lies there. */
  lookAt(source: ByteSource, partition: string): Promise<ImageFacts> {
    return lookInside(source, partition, nodePorts);
  }

  /** The update its maker has out for it, in the folder `offer`; null where there is none. */
  async readOffer(): Promise<UpdateOffer | null> {
    return this.json<UpdateOffer>(join('offer', 'offer.json')).catch(() => null);
  }
  private offerPath = (partition: string) => join(this.dir, 'offer', `${partition}.img`);
  async lookAtOffer(partition: string): Promise<ImageFacts | null> {
    const bytes = await readFile(this.offerPath(partition)).catch(() => null);
    return bytes && this.lookAt(memorySource(bytes, partition), partition);
  }
  async copyOffer(partition: string, to: string): Promise<void> {
    await copyFile(this.offerPath(partition), this.imagePath(to));
  }
  async writeOffer(offer: UpdateOffer, images: ReadonlyMap<string, Uint8Array>): Promise<void> {
    await mkdir(join(this.dir, 'offer'), { recursive: true });
    for (const [partition, bytes] of images) await writeFileWhole(this.offerPath(partition), bytes);
    await writeFileWhole(
      join(this.dir, 'offer', 'offer.json'),
      new TextEncoder().encode(JSON.stringify(offer)),
    );
  }

  /** Its owner's inbox, as far as the handset is its business. */
  readMail(): Promise<readonly Mail[]> {
    return this.json<readonly Mail[]>('mail.json').catch(() => []);
  }
  async writeMail(mail: readonly Mail[]): Promise<void> {
    await writeFileWhole(join(this.dir, 'mail.json'), new TextEncoder().encode(JSON.stringify(mail)));
  }

  /** What waits in it, and what of that has come; nothing where nobody put any in. */
  readSurprises(): Promise<KeptSurprises> {
    return this.json<KeptSurprises>('surprises.json').catch(() => ({ waiting: [], came: [] }));
  }
  async writeSurprises(kept: KeptSurprises): Promise<void> {
    await writeFileWhole(join(this.dir, 'surprises.json'), new TextEncoder().encode(JSON.stringify(kept)));
  }

  /** The name of the last start; null where none was kept. */
  readBootId(): Promise<string | null> {
    return this.json<string | null>('boot-id.json').catch(() => null);
  }
  async writeBootId(bootId: string): Promise<void> {
    await writeFileWhole(join(this.dir, 'boot-id.json'), new TextEncoder().encode(JSON.stringify(bootId)));
  }

  /** Where a package that is being sent comes to lie. */
  get incomingPath(): string {
    return join(this.dir, 'incoming.zip.part');
  }
  async dropIncoming(): Promise<void> {
    await rm(this.incomingPath, { force: true });
  }

  /**
   * Files on the handset's storage, by the whole path they were pushed to; on disk one flat folder of encoded
   * names.
   */
  async pushFile(path: string, bytes: Uint8Array): Promise<void> {
    await mkdir(join(this.dir, 'files'), { recursive: true });
    await writeFileWhole(join(this.dir, 'files', encodePath(path)), bytes);
  }
  async readFile(path: string): Promise<Uint8Array> {
    return readFile(join(this.dir, 'files', encodePath(path))).catch((thrown: unknown) => {
      throw new EternoError('not-found', `there is no ${path} on the handset`, { cause: thrown });
    });
  }
  async listFiles(folder: string): Promise<{ path: string; size: number; at: number }[]> {
    const names = await readdir(join(this.dir, 'files')).catch(() => [] as string[]);
    const found = names
      .filter((name) => !name.endsWith('.part'))
      .map((name) => ({ name, path: decodeURIComponent(name) }));
    const inside = found.filter(({ path }) => path.startsWith(folder.endsWith('/') ? folder : `${folder}/`));
    return Promise.all(
      inside.map(async ({ name, path }) => {
        const { size, mtimeMs } = await stat(join(this.dir, 'files', name));
        return { path, size, at: Math.round(mtimeMs) };
      }),
    );
  }
  /** Temporary files that a killed process left. */
  async sweep(): Promise<void> {
    for (const name of await readdir(this.dir))
      if (name.endsWith('.part')) await rm(join(this.dir, name), { force: true });
  }
}
