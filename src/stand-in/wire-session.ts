import { memorySource } from '@/core/bytes/byte-source';
import { fromLatin1 } from '@/core/bytes/bytes';
import type { ByteSource } from '@/core/bytes/byte-source';
import { EternoError, toEternoError } from '@/core/errors';
import { readSparse } from '@/core/formats/sparse/reader';
import type { Asked } from '@/core/handset/menus';
import type { HandsetOperation } from '@/core/handset/operate';
import { operate } from '@/core/handset/operate';
import type { HandsetProfile, HandsetState, ImageFacts, Slot } from '@/core/handset/state';
import { bootloaderVariables } from '@/core/handset/variables';
import type { AnswerKind } from '@/core/wire/messages';
import {
  answerBytes,
  COMMAND_BYTES,
  DATA_MESSAGE_BYTES,
  hexLength,
  parseHexLength,
} from '@/core/wire/messages';
import type { ImageWrite } from './image-write';

/* The bootloader's end of the wire protocol, whatever carries its messages and whoever plays the handset. */

const SPARSE_MAGIC = 0xed26ff3a;

/** What carries the messages. */
export interface WireChannel {
  send(message: Uint8Array): void;
  /** The next message. @throws {EternoError} `too-large`, and what ends the channel */
  receive(limitBytes: number): Promise<Uint8Array>;
  /** What was sent goes out, then it is over; `after` follows. */
  end(after: () => void): void;
  readonly isOpen: boolean;
}

/** The handset that answers. Every call that changes it throws `handset-refused` where it would not be done. */
export interface WireHost {
  readonly profile: HandsetProfile;
  readonly state: HandsetState;
  readonly store: { lookAt(source: ByteSource, partition: string): Promise<ImageFacts> };
  /** The code that came with a request to unlock. */
  code: string | null;
  run(operation: HandsetOperation): void;
  /** Asks on its own screen. */
  ask(what: Asked): void;
  startOnce(image: ImageFacts): void;
  erase(partition: string): Promise<void>;
  write(write: ImageWrite): Promise<void>;
  partitionName(name: string): string;
}

export const isReachable = ({ state: { mode, cable } }: Pick<WireHost, 'state'>): boolean =>
  (mode === 'bootloader' || mode === 'userspace') && cable;

export class WireSession {
  private downloaded: Uint8Array | null = null;

  constructor(
    private readonly channel: WireChannel,
    private readonly host: WireHost,
  ) {}

  private send(kind: AnswerKind, text = ''): void {
    if (this.channel.isOpen) this.channel.send(answerBytes(kind, text.slice(0, 200)));
  }

  /** Answers until the channel ends. @throws {EternoError} what ends it */
  async serve(): Promise<never> {
    for (;;) {
      const command = fromLatin1(await this.channel.receive(COMMAND_BYTES));
      try {
        await this.answer(command);
      } catch (thrown) {
        this.send('FAIL', toEternoError(thrown).message);
      }
    }
  }

  private async answer(command: string): Promise<void> {
    const at = command.indexOf(':');
    const [verb, rest] = at < 0 ? [command, ''] : [command.slice(0, at), command.slice(at + 1)];
    switch (verb) {
      case 'getvar':
        return this.variable(rest);
      case 'download':
        return this.download(parseHexLength(rest));
      case 'flash':
        return this.flash(rest);
      case 'set_active':
        if (rest !== 'a' && rest !== 'b')
          throw new EternoError('handset-refused', `there is no slot ${rest}`);
        this.host.run({ do: 'set-active', slot: rest as Slot });
        return this.send('OKAY');
      case 'reboot':
      case 'continue':
        this.send('OKAY');
        return this.afterAnswer(() => this.host.run({ do: 'restart' }));
      case 'erase':
        await this.host.erase(this.host.partitionName(rest));
        return this.send('OKAY');
      case 'flashing get_unlock_ability':
        return this.send('OKAY', this.host.state.unlockSwitch === 'on' ? '1' : '0');
      case 'boot':
        return this.startOnce();
      case 'reboot-recovery':
        return this.leaveFor({ do: 'enter-recovery' });
      case 'reboot-fastboot':
        return this.leaveFor({ do: 'enter-userspace' });
      case 'flashing lock':
        this.wouldBeDone({ do: 'lock' });
        this.host.ask('lock');
        return this.send('OKAY', 'choose on the handset');
      case 'snapshot-update':
        if (rest !== 'cancel') throw new EternoError('handset-refused', `this handset has no "${command}"`);
        this.host.run({ do: 'cancel-update' });
        return this.send('OKAY');
      case 'reboot-bootloader':
        this.send('OKAY');
        return this.afterAnswer(() => this.host.run({ do: 'enter-bootloader' }));
      default:
        return verb.startsWith('flashing unlock') ? this.unlock(verb) : this.send('FAIL', 'unknown command');
    }
  }

  /** With a code by mail it follows the words; the last word is said on the handset. */
  private unlock(words: string): void {
    const code = words.slice('flashing unlock'.length).trim() || null;
    this.wouldBeDone({ do: 'unlock', ...(code === null ? {} : { code }) });
    this.host.code = code;
    this.host.ask('unlock');
    this.send('OKAY', 'choose on the handset');
  }
  /** @throws {EternoError} `handset-refused` with the machine's reason; nothing changes */
  private wouldBeDone(operation: HandsetOperation): void {
    const result = operate(this.host.profile, this.host.state, operation);
    if (!result.ok) throw new EternoError('handset-refused', result.reason);
  }
  private leaveFor(operation: HandsetOperation): void {
    this.wouldBeDone(operation);
    this.send('OKAY');
    this.afterAnswer(() => this.host.run(operation));
  }
  private async startOnce(): Promise<void> {
    if (!this.downloaded) throw new EternoError('handset-refused', 'nothing was downloaded');
    const { store, profile } = this.host;
    const recovery = await store.lookAt(memorySource(this.downloaded), profile.recoveryHome);
    if (recovery.broken === null && recovery.recovery)
      return this.leaveFor({ do: 'start-recovery-once', image: recovery });
    const image = await store.lookAt(memorySource(this.downloaded), profile.rootPartition);
    this.wouldBeDone({ do: 'start-once', image });
    this.send('OKAY');
    this.afterAnswer(() => this.host.startOnce(image));
  }

  private afterAnswer(work: () => void): void {
    this.channel.end(work);
  }

  private variable(name: string): void {
    const variables = bootloaderVariables(this.host.profile, this.host.state);
    if (name === 'all') {
      for (const [key, value] of variables) this.send('INFO', `${key}:${value}`);
      return this.send('OKAY');
    }
    const found = variables.find(([key]) => key === name);
    return found ? this.send('OKAY', found[1]) : this.send('FAIL', 'no such variable');
  }

  private async download(length: number): Promise<void> {
    if (length === 0 || length > this.host.profile.maxDownloadBytes)
      throw new EternoError('handset-refused', `a download of ${length} bytes is not taken`);
    this.send('DATA', hexLength(length));
    const bytes = new Uint8Array(length);
    for (let at = 0; at < length;) {
      const piece = await this.channel.receive(DATA_MESSAGE_BYTES);
      if (piece.length === 0 || at + piece.length > length)
        throw new EternoError('bad-field', 'more data came than was announced');
      bytes.set(piece, at);
      at += piece.length;
    }
    this.downloaded = bytes;
    this.send('OKAY');
  }

  private async flash(partition: string): Promise<void> {
    if (!this.downloaded || this.downloaded.length < 4)
      throw new EternoError('handset-refused', 'nothing was downloaded');
    const bytes = this.downloaded;
    this.downloaded = null;
    const linked = () => this.channel.isOpen && this.host.state.cable;
    const write = { partition: this.host.partitionName(partition), stillLinked: linked };
    if (new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true) === SPARSE_MAGIC) {
      const { output, said } = await readSparse(memorySource(bytes, partition));
      const place = said.map(({ start, end }) => ({ from: start, at: start, length: end - start }));
      await this.host.write({ ...write, source: output, place });
    } else await this.host.write({ ...write, source: memorySource(bytes), place: null });
    this.send('OKAY');
  }
}
