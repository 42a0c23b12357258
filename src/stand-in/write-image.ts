import { EternoError } from '@/core/errors';
import type { HandsetOperation } from '@/core/handset/operate';
import { operate } from '@/core/handset/operate';
import type { Panel } from '@/core/handset/screen';
import type { HandsetProfile, HandsetState } from '@/core/handset/state';
import type { OwnTime } from './own-time';
import type { StandInStore } from './stand-in-store';

/** A write takes this long a mebibyte, so that a cable can be lost in the middle of it. */
const WRITE_MS_PER_MIB = 150;
const PIECE_BYTES = 1 << 20;

/** A piece of what arrived and where it goes; bytes. */
export interface Stretch {
  readonly from: number;
  readonly at: number;
  readonly length: number;
}

/** What writes: a simulated handset. */
interface Writer {
  readonly profile: HandsetProfile;
  readonly state: HandsetState;
  readonly store: StandInStore;
  readonly time: OwnTime;
  /** The process that plays it has ended. */
  readonly ended: boolean;
  show(change: Partial<Panel>): void;
  run(operation: HandsetOperation): void;
  saved(): Promise<void>;
}

export interface ImageWrite {
  readonly partition: string;
  readonly bytes: Uint8Array;
  readonly stillLinked: () => boolean;
  /** Lays the bytes over what was there; null from the front, zeros behind. */
  readonly place: readonly Stretch[] | null;
}

/** The size of the partition. @throws {EternoError} `handset-refused` where the handset does not let it be written */
function needRoom({ profile, state }: Writer, { partition, bytes, place }: ImageWrite): number {
  const room = profile.partitionBytes[partition.replace(/_[ab]$/, '')];
  const sizeBytes =
    place === null ? bytes.length : Math.max(0, ...place.map(({ at, length }) => at + length));
  const image = {
    sha256: '',
    sizeBytes,
    broken: null,
    fingerprint: null,
    patchedBy: null,
    digestValid: null,
  };
  const check = operate(profile, state, { do: 'write', partition, image });
  if (!check.ok) throw new EternoError('handset-refused', check.reason);
  if (room === undefined) throw new EternoError('handset-refused', `there is no partition ${partition}`);
  return room;
}

/** Lays the bytes down piece by piece, until the cable is lost. @returns how many it laid */
async function layDown(
  writer: Writer,
  { bytes, stillLinked }: ImageWrite,
  stretches: readonly Stretch[],
  content: Uint8Array,
): Promise<number> {
  let done = 0;
  for (const { from, at, length } of stretches)
    for (let offset = 0; offset < length && stillLinked() && !writer.ended; offset += PIECE_BYTES) {
      const size = Math.min(length - offset, PIECE_BYTES);
      await writer.time.sleep((WRITE_MS_PER_MIB * size) / PIECE_BYTES);
      content.set(bytes.subarray(from + offset, from + offset + size), at + offset);
      done += size;
    }
  return done;
}

/**
 * Writes an image the way a handset does: piece by piece, in its own time. A cable lost in the middle leaves the first pieces new and the
 * rest old.
 * @throws {EternoError} `handset-refused`, `link-lost`
 */
export async function writeImage(writer: Writer, write: ImageWrite): Promise<void> {
  const { partition, bytes, place } = write;
  const room = needRoom(writer, write);
  const old = await writer.store.readImage(partition);
  const content = new Uint8Array(Math.max(room, old.length));
  content.set(old);
  writer.show({ busy: `writing ${partition}` });
  const stretches = place ?? [{ from: 0, at: 0, length: bytes.length }];
  const total = stretches.reduce((sum, { length }) => sum + length, 0);
  const done = await layDown(writer, write, stretches, content).finally(() => writer.show({ busy: null }));
  // a handset that ended in the middle of a write keeps what lay there
  if (writer.ended) throw new EternoError('link-lost', 'the handset ended');
  if (place === null && done === total) content.fill(0, bytes.length);
  const image = await writer.store.writeImage(partition, content);
  writer.run({ do: 'write', partition, image });
  await writer.saved();
  if (done < total)
    throw new EternoError('link-lost', `the cable was lost after ${done} of ${total} bytes of ${partition}`);
}
