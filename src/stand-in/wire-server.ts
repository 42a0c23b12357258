import type { Server, Socket } from 'node:net';
import { createServer } from 'node:net';
import { memorySource } from '@/core/bytes/byte-source';
import { EternoError, toEternoError } from '@/core/errors';
import { readSparse } from '@/core/formats/sparse/reader';
import type { HandsetOperation } from '@/core/handset/operate';
import { operate } from '@/core/handset/operate';
import { bootloaderVariables } from '@/core/handset/variables';
import type { Slot } from '@/core/handset/state';
import { ByteQueue } from '@/core/wire/byte-queue';
import type { AnswerKind } from '@/core/wire/messages';
import {
  answerBytes,
  COMMAND_BYTES,
  DATA_MESSAGE_BYTES,
  frame,
  HANDSHAKE,
  hexLength,
  parseHexLength,
  readFrame,
} from '@/core/wire/messages';
import { equalBytes, fromLatin1 } from '@/core/bytes/bytes';
import type { HandsetHost } from './handset-host';

const SPARSE_MAGIC = 0xed26ff3a;

/**
 * Answers the bootloader wire protocol, while the handset is in its bootloader or in user-space flashing and
 * its cable is in.
 */
export function createWireServer(host: HandsetHost): Server {
  const sockets = new Set<Socket>();
  const reachable = () =>
    (host.state.mode === 'bootloader' || host.state.mode === 'userspace') && host.state.cable;
  host.onChange(() => {
    // leaving the bootloader, or losing the cable, ends every connection
    if (!reachable()) for (const socket of sockets) socket.destroy();
  });
  return createServer((socket) => {
    socket.on('error', () => undefined);
    if (!reachable()) {
      socket.destroy();
      return;
    }
    sockets.add(socket);
    socket.on('close', () => sockets.delete(socket));
    new WireSession(socket, host).serve().catch(() => socket.destroy());
  });
}

class WireSession {
  private readonly queue = new ByteQueue();
  private downloaded: Uint8Array | null = null;

  constructor(
    private readonly socket: Socket,
    private readonly host: HandsetHost,
  ) {
    socket.on('data', (bytes) => this.queue.push(new Uint8Array(bytes)));
    socket.on('close', () => this.queue.end(new EternoError('link-lost', 'the connection ended')));
  }

  private send(kind: AnswerKind, text = ''): void {
    if (!this.socket.destroyed) this.socket.write(frame(answerBytes(kind, text.slice(0, 200))));
  }

  async serve(): Promise<void> {
    this.socket.write(HANDSHAKE);
    if (!equalBytes(await this.queue.take(HANDSHAKE.length), HANDSHAKE))
      throw new EternoError('bad-magic', 'no handshake');
    for (;;) {
      const command = fromLatin1(await readFrame(this.queue, COMMAND_BYTES));
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
    this.socket.end(() => work());
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
      const piece = await readFrame(this.queue, DATA_MESSAGE_BYTES);
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
    const linked = () => !this.socket.destroyed && this.host.state.cable;
    const write = { partition: this.host.partitionName(partition), stillLinked: linked };
    if (new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true) === SPARSE_MAGIC) {
      const { output, said } = await readSparse(memorySource(bytes, partition));
      const place = said.map(({ start, end }) => ({ from: start, at: start, length: end - start }));
      await this.host.write({ ...write, source: output, place });
    } else await this.host.write({ ...write, source: memorySource(bytes), place: null });
    this.send('OKAY');
  }
}
