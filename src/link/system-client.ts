import type { Socket } from 'node:net';
import type { ErrorData } from '@/core/errors';
import { EternoError } from '@/core/errors';
import { LIMITS } from '@/core/limits';
import type { SystemAnswer, SystemAsk, SystemWord } from '@/core/link/system-messages';
import type { ByteQueue } from '@/core/wire/byte-queue';
import type { Silence } from './silence';
import { SILENCE, silenceOfRequest } from './silence';
import { openSocket, unlessSilent } from './tcp-transport';

const ANSWER_BYTES = LIMITS.factsTextBytes;

type Carrying = 'write' | 'force' | 'push';
type Answering = 'read' | 'pull' | 'image-data';
type WithoutLength<T> = T extends unknown ? Omit<T, 'length'> : never;

/** One connection to a stand-in's system link; requests go one after another. */
export class SystemClient {
  private constructor(
    private readonly socket: Socket,
    private readonly queue: ByteQueue,
    private readonly token: string,
    private readonly silence: Silence,
  ) {}

  /** @throws {EternoError} `link-lost` */
  static async open(port: number, token: string, silence: Silence = SILENCE): Promise<SystemClient> {
    const { socket, queue } = await openSocket({ host: '127.0.0.1', port });
    return new SystemClient(socket, queue, token, silence);
  }

  private within<T>(request: SystemWord, work: () => Promise<T>): Promise<T> {
    return unlessSilent(this.socket, silenceOfRequest(request, this.silence), work);
  }

  /** @throws {EternoError} what the handset answers, `link-lost` */
  async ask<W extends SystemWord>(request: SystemAsk<W>): Promise<SystemAnswer<W>> {
    return this.within(request.do, () => {
      this.socket.write(`${JSON.stringify({ ...request, token: this.token })}\n`);
      return this.answer<W>();
    });
  }

  private async answer<W extends SystemWord>(): Promise<SystemAnswer<W>> {
    const answer = JSON.parse(await this.queue.line(ANSWER_BYTES)) as {
      ok: boolean;
      error?: ErrorData;
    } & SystemAnswer<W>;
    if (!answer.ok)
      throw answer.error
        ? EternoError.fromData(answer.error)
        : new EternoError('handset-refused', 'the handset refused');
    return answer;
  }

  /** A request followed by bytes. */
  async send(request: WithoutLength<SystemAsk<Carrying>>, bytes: Uint8Array): Promise<void> {
    await this.within(request.do, () => {
      this.socket.write(`${JSON.stringify({ ...request, length: bytes.length, token: this.token })}\n`);
      this.socket.write(bytes);
      return this.answer();
    });
  }

  /**
   * A request followed by bytes of any size, piece by piece as they come.
   * @throws {EternoError} what the handset says of it, `link-lost`
   */
  async sendPieces(
    request: SystemAsk<'sideload' | 'set-part'>,
    pieces: AsyncIterable<Uint8Array>,
    onSent: (doneBytes: number) => void,
  ): Promise<void> {
    const { length, do: word } = request;
    this.socket.write(`${JSON.stringify({ ...request, token: this.token })}\n`);
    let done = 0;
    for await (const piece of pieces) {
      if (done + piece.length > length)
        throw new EternoError('bad-field', 'more bytes came than were announced');
      await this.within(word, () => this.drained(piece));
      done += piece.length;
      onSent(done);
    }
    if (done !== length)
      throw new EternoError('truncated', `the file ended after ${done} of ${length} bytes`);
    await this.within(word, () => this.answer());
  }

  private async drained(piece: Uint8Array): Promise<void> {
    if (this.socket.write(piece)) return;
    await new Promise<void>((resolve) => {
      const over = () => {
        this.socket.off('drain', over).off('close', over);
        resolve();
      };
      this.socket.on('drain', over).on('close', over);
    });
    if (this.socket.destroyed)
      throw new EternoError('link-lost', 'the handset is gone: cable, mode or power');
  }

  /**
   * A request whose answer is followed by bytes.
   * @throws {EternoError} what the handset answers, `bad-field` for an impossible length
   */
  async bytes(request: SystemAsk<Answering>): Promise<Uint8Array> {
    const { length } = await this.ask<Answering>(request);
    if (typeof length !== 'number' || !Number.isSafeInteger(length) || length > LIMITS.imageBytes)
      throw new EternoError('bad-field', 'the handset announces an impossible length');
    return this.within(request.do, () => this.queue.take(length));
  }

  /** Every change of the stand-in from now on, until the connection ends. */
  async *watch(): AsyncGenerator<SystemAnswer<'watch'>> {
    this.socket.write(`${JSON.stringify({ do: 'watch', token: this.token })}\n`);
    for (;;) yield await this.answer<'watch'>();
  }

  close(): void {
    this.socket.destroy();
  }
}
