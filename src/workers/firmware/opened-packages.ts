import type { ByteSource, CountingSource } from '@/core/bytes/byte-source';
import { countingSource } from '@/core/bytes/byte-source';
import { throwIfAborted } from '@/core/errors';
import { openPackageFiles } from '@/core/packages/open-package';
import type { OpenedPackage } from '@/core/packages/package-report';
import type { ByteRange } from '@/core/packages/partial-source';
import type { Ports, Watch } from '@/core/ports';

export interface Opened {
  readonly pack: OpenedPackage;
  readonly sources: readonly CountingSource[];
  /** The ranges that opening read of each file. */
  readonly opening: readonly (readonly ByteRange[])[];
}

/** What tells one chosen file from another. */
type FileName = Pick<File, 'name' | 'size' | 'lastModified'>;

/** Told at each read: the files as they were read so far, and the bytes read of the one. */
type OnRead = (sources: readonly CountingSource[], doneBytes: number) => void;

const MOST_OPEN = 40;

/**
 * Packages by their files: each is opened once, to say what it is and to take out of it. One at a time is the
 * current one, that images are taken out of.
 * @param sourceOf reads a file in place
 */
export class OpenedPackages<OneFile extends FileName> {
  private readonly open = new Map<string, Opened>();
  private chosen: Opened | null = null;

  constructor(
    private readonly ports: Ports,
    private readonly sourceOf: (file: OneFile) => ByteSource,
  ) {}

  get current(): Opened | null {
    return this.chosen;
  }

  /**
   * Opened, or as it was opened before.
   * @throws {EternoError} of `openPackageFiles`
   */
  async once(files: readonly OneFile[], watch: Watch, onRead: OnRead = () => undefined): Promise<Opened> {
    const key = JSON.stringify(files.map(({ name, size, lastModified }) => [name, size, lastModified]));
    const before = this.open.get(key);
    if (before) return before;
    const sources: CountingSource[] = files.map((file) =>
      countingSource(this.sourceOf(file), (doneBytes) => onRead(sources, doneBytes)),
    );
    const pack = await openPackageFiles(sources, this.ports, watch);
    const opened = {
      pack,
      sources,
      opening: sources.map(({ ranges }) => ranges.map(([start, end]) => [start, end] as const)),
    };
    this.open.set(key, opened);
    const [oldest] = this.open.keys();
    if (this.open.size > MOST_OPEN) this.open.delete(oldest!);
    return opened;
  }

  /**
   * Opens it and makes it the current one, unless it was called off while it opened: then whatever was chosen
   * since stays the current one.
   * @throws {EternoError} `cancelled`, and of `openPackageFiles`
   */
  async choose(
    files: readonly OneFile[],
    watch: Watch & { readonly signal: AbortSignal },
    onRead?: OnRead,
  ): Promise<Opened> {
    this.chosen = null;
    const opened = await this.once(files, watch, onRead);
    throwIfAborted(watch.signal);
    this.chosen = opened;
    return opened;
  }
}
