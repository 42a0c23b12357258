import { unslotted } from '@/core/text/partition-names';
import { EternoError } from '@/core/errors';
import type { HandsetOperation } from '@/core/handset/operate';
import { operate } from '@/core/handset/operate';
import type { Panel } from '@/core/handset/screen';
import type { HandsetProfile, HandsetState } from '@/core/handset/state';
import type { OwnTime } from './own-time';
import type { ImageWrite, Stretch } from './image-write';
import type { PartitionDraft, StandInStore } from './stand-in-store';

/** A write takes this long a mebibyte, so that a cable can be lost in the middle of it. */
const WRITE_MS_PER_MIB = 150;
const PIECE_BYTES = 1 << 20;

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

/** The size of the partition. @throws {EternoError} `handset-refused` where the handset does not let it be written */
function needRoom({ profile, state }: Writer, { partition, source, place }: ImageWrite): number {
  const room = profile.partitionBytes[unslotted(partition)];
  const sizeBytes = place === null ? source.size : Math.max(0, ...place.map(({ at, length }) => at + length));
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
  { source, stillLinked }: ImageWrite,
  stretches: readonly Stretch[],
  draft: PartitionDraft,
): Promise<number> {
  let done = 0;
  for (const { from, at, length } of stretches)
    for (let offset = 0; offset < length && stillLinked() && !writer.ended; offset += PIECE_BYTES) {
      const size = Math.min(length - offset, PIECE_BYTES);
      await writer.time.sleep((WRITE_MS_PER_MIB * size) / PIECE_BYTES);
      await draft.writeAt(at + offset, await source.read(from + offset, from + offset + size));
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
  const { partition, source, place } = write;
  const draft = await writer.store.draft(partition, needRoom(writer, write));
  try {
    writer.show({ busy: `writing ${partition}` });
    const stretches = place ?? [{ from: 0, at: 0, length: source.size }];
    const total = stretches.reduce((sum, { length }) => sum + length, 0);
    const done = await layDown(writer, write, stretches, draft).finally(() => writer.show({ busy: null }));
    // a handset that ended in the middle of a write keeps what lay there
    if (writer.ended) throw new EternoError('link-lost', 'the handset ended');
    if (place === null && done === total) await draft.clearFrom(source.size);
    await draft.commit();
    writer.run({ do: 'write', partition, image: await writer.store.look(partition) });
    await writer.saved();
    if (done < total)
      throw new EternoError(
        'link-lost',
        `the cable was lost after ${done} of ${total} bytes of ${partition}`,
      );
  } finally {
    await draft.discard();
  }
}
