import type { ByteSource } from '@/core/bytes/byte-source';
import { readPieces } from '@/core/bytes/byte-source';
import { EternoError, throwIfAborted } from '@/core/errors';
import type { Listed, RestartTo } from '@/core/link/handset-link';
import type { Watch } from '@/core/ports';
import {
  commandBytes,
  DATA_MESSAGE_BYTES,
  hexLength,
  parseAnswer,
  parseHexLength,
} from '@/core/wire/messages';
import { silenceOf } from './silence';
import type { WireTransport } from './wire-transport';

const MOST_LINES = 10_000;

const RESTARTS: Readonly<Record<RestartTo, string>> = {
  system: 'reboot',
  bootloader: 'reboot-bootloader',
  recovery: 'reboot-recovery',
  userspace: 'reboot-fastboot',
};
const yesNo = (text: string | null) => (text === null ? null : text === 'yes');

/** A command as it may be shown: an unlock code goes along behind its words. */
const spoken = (command: string) => command.split(':')[0]!.split(' ').slice(0, 2).join(' ');

export interface WireReply {
  readonly text: string;
  /** `INFO` and `TEXT` lines that came before the end. */
  readonly lines: readonly string[];
}

/** Speaks to a handset in its bootloader; one command at a time. */
export class BootloaderClient {
  constructor(private readonly transport: WireTransport) {}

  /** @throws {EternoError} `handset-refused` with the handset's own reason, `link-lost`, `bad-field` */
  async command(command: string): Promise<WireReply> {
    await this.transport.send(commandBytes(command));
    return this.reply(command);
  }

  private async reply(command: string): Promise<WireReply> {
    const lines: string[] = [];
    const silenceMs = silenceOf(command, this.transport.silence);
    for (;;) {
      const { kind, text } = parseAnswer(await this.transport.receive(silenceMs));
      if (kind === 'OKAY' || kind === 'DATA') return { text, lines };
      if (kind === 'FAIL')
        throw new EternoError('handset-refused', `the handset refused ${spoken(command)}: ${text}`, {
          details: { reason: text },
        });
      if (lines.push(text) > MOST_LINES)
        throw new EternoError('too-large', 'the handset does not stop answering');
    }
  }

  /** One variable, or null where the handset has none of that name. */
  async variable(name: string): Promise<string | null> {
    try {
      return (await this.command(`getvar:${name}`)).text;
    } catch (thrown) {
      if (thrown instanceof EternoError && thrown.code === 'handset-refused') return null;
      throw thrown;
    }
  }

  async allVariables(): Promise<readonly string[]> {
    return (await this.command('getvar:all')).lines;
  }

  /** How it is listed in the mode that it answers in. */
  async listed(): Promise<Listed> {
    return {
      mode: (await this.variable('is-userspace')) === 'yes' ? 'userspace' : 'bootloader',
      serial: await this.variable('serialno'),
      unlocked: yesNo(await this.variable('unlocked')),
      recovery: null,
      batteryPercent: null,
      batteryOk: yesNo(await this.variable('battery-soc-ok')),
    };
  }

  restart = async (to: RestartTo): Promise<void> => void (await this.command(RESTARTS[to]));

  /**
   * Sends an image's bytes; they are only held by the handset until `flash`.
   * @throws {EternoError} `cancelled`, `link-lost`, `handset-refused`
   */
  async download(source: ByteSource, watch: Watch = {}): Promise<void> {
    const { text } = await this.command(`download:${hexLength(source.size)}`);
    if (parseHexLength(text) !== source.size)
      throw new EternoError(
        'bad-field',
        `the handset wants ${text} bytes (hex), the image has ${source.size}`,
      );
    let doneBytes = 0;
    const signal = this.transport.breaksOff ? watch.signal : undefined;
    for await (const piece of readPieces(source, DATA_MESSAGE_BYTES, signal)) {
      throwIfAborted(signal);
      await this.transport.send(piece);
      doneBytes += piece.length;
      watch.onProgress?.({ phase: 'send', doneBytes, totalBytes: source.size });
    }
    await this.reply('download');
    throwIfAborted(watch.signal);
  }

  close(): void {
    this.transport.close();
  }
}
