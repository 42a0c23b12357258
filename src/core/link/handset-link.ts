import type { ByteSource } from '../bytes/byte-source';
import type { Proved } from '../bytes/hashed-source';
import type { InstalledRootApp, ModulesState, Settings } from '../handset/state';
import type { Watch } from '../ports';

/*
 * What a computer can ask a handset on its cable, and have it do (docs/architecture.md, "The link"). Steps
 * know no more of a handset than what comes over this port or from a person. Every call ends within a time of
 * its own; those that move many bytes take a watch.
 *
 * Errors of every call: `link-lost` where it does not answer or stops answering (`details.sent` and
 * `details.of` say how many bytes went), `handset-refused` with the handset's own reason, `cancelled`.
 */

/**
 * Where a handset stands that is listed. One that is dark, starting, looping, or runs a system that trusts no
 * computer is not.
 */
export type ListedMode = 'system' | 'bootloader' | 'userspace' | 'recovery' | 'sideload' | 'download';

/** The handset's line in the list; null for what it does not say there. */
export interface Listed {
  readonly mode: ListedMode;
  readonly serial: string | null;
  readonly unlocked: boolean | null;
  /** The name of a custom recovery that answers. */
  readonly recovery: string | null;
  readonly batteryPercent: number | null;
  /** The bootloader's own word for it. */
  readonly batteryOk: boolean | null;
}

/** Why the system's updater would not take an update that somebody asked it to take. */
export type UpdateRefusal = 'not-newer' | 'not-stock' | 'merging' | 'other';

/** What a running system that trusts this computer says beyond its properties. */
export interface SystemStatus {
  readonly rootApp: 'absent' | 'unfinished' | 'ready';
  /** Which one; null where it tells nothing of it. */
  readonly rootAppIs: InstalledRootApp | null;
  /** A command that gives root is there. */
  readonly rootCommand: boolean;
  readonly modules: ModulesState;
  /** An update that was taken and not started. */
  readonly update: { readonly slot: string; readonly build: string } | null;
  /** The last time that it would not. */
  readonly updateRefused: { readonly why: UpdateRefusal; readonly at: number } | null;
  readonly snapshot: 'none' | 'waiting' | 'merging';
  readonly settings: Settings;
  readonly batteryPercent: number;
  /** A name of this very start, which the next start changes; null where it tells none. */
  readonly bootId: string | null;
}

export interface RootAnswer {
  readonly granted: boolean;
  readonly uid: number;
  readonly reason: 'denied' | 'no-root' | null;
}

/** A file on the handset's storage: whole path, bytes, and when it came there, in milliseconds. */
export interface HandsetFile {
  readonly path: string;
  readonly size: number;
  readonly at: number;
}

/** One partition of one slot; `slot` null where the handset has one. */
export interface LinkTarget {
  readonly partition: string;
  readonly slot: string | null;
}

export type RestartTo = 'system' | 'bootloader' | 'recovery' | 'userspace';

/** An image of a firmware set on its way, piece by piece. */
export interface SetPart {
  readonly partition: string;
  readonly sizeBytes: number;
  readonly pieces: AsyncIterable<Uint8Array>;
  readonly onSent: (doneBytes: number) => void;
}

export interface HandsetLink {
  /** Where it sees the handset; elsewhere the person looks. */
  readonly reaches: 'every mode' | 'its bootloader';
  /** Null where no handset is listed. */
  listed(): Promise<Listed | null>;
  /**
   * How often a handset came on the cable since this computer counts, whatever it then was: a start is once,
   * one that starts over and over comes again and again. Null where this computer can't see that.
   */
  comings(): Promise<number | null>;

  /** All variables of its bootloader, a line each, as it prints them. */
  variables(): Promise<readonly string[]>;
  /** One of them; null where it has none of that name. */
  variable(name: string): Promise<string | null>;
  /**
   * Writes an image from the bootloader.
   * @returns the partition's full name. Further errors: `refused`, `bad-hash` (nothing was written)
   */
  write(target: LinkTarget, source: ByteSource, proved: Proved, watch: Watch): Promise<string>;
  /** Starts an image from memory, once. Further errors: `refused`, `unsupported`, `bad-hash` */
  startOnce(source: ByteSource, proved: Proved, watch: Watch): Promise<void>;
  setActive(slot: string): Promise<void>;
  unlock(code: string | null): Promise<void>;
  lock(): Promise<void>;

  /** The properties of the running system, as it prints them. */
  properties(): Promise<string>;
  status(): Promise<SystemStatus>;
  /** Asks for root and waits for the prompt on the handset. */
  root(): Promise<RootAnswer>;
  /**
   * A partition's bytes, read by root or a custom recovery. `handset-refused` with `details.reason`
   * `no-partition` where there is none.
   */
  read(partition: string): Promise<Uint8Array<ArrayBufferLike>>;
  /** Root writes bytes over a partition of the running handset. */
  writeInside(partition: string, bytes: Uint8Array): Promise<void>;
  /** Exactly these modules on. */
  modules(only: readonly string[]): Promise<void>;
  /** Root installs a package that lies on its storage: a kit's, or one with a script. */
  installPackage(path: string): Promise<void>;

  list(path: string): Promise<readonly HandsetFile[]>;
  push(path: string, bytes: Uint8Array): Promise<void>;
  pull(path: string): Promise<Uint8Array<ArrayBufferLike>>;
  /** Its data partition as one file, by a recovery that opens it. */
  imageOfData(): Promise<Uint8Array<ArrayBufferLike>>;

  /**
   * A matched set in download mode: each part is judged and written as it comes, and the next one is asked
   * for once the handset said so. Where it ends early the parts before it are written.
   */
  writeSet(parts: AsyncIterable<SetPart>, keepData: boolean): Promise<void>;
  /** A package for a recovery that waits for one. */
  sideload(
    size: number,
    pieces: AsyncIterable<Uint8Array>,
    onSent: (doneBytes: number) => void,
  ): Promise<void>;

  restart(to: RestartTo): Promise<void>;
}
