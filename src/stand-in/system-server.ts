import { timingSafeEqual } from 'node:crypto';
import type { Server, Socket } from 'node:net';
import { createServer } from 'node:net';
import { EternoError, toEternoError } from '@/core/errors';
import type { Key } from '@/core/handset/keys';
import { KEYS } from '@/core/handset/keys';
import { propertyDump } from '@/core/handset/variables';
import { LIMITS } from '@/core/limits';
import { ByteQueue } from '@/core/wire/byte-queue';
import type { HandsetHost } from './handset-host';

const LINE_BYTES = 64 * 1024;
/** How long the handset waits for somebody to answer a root prompt. */
const PROMPT_MS = 60_000;

/** One request: a JSON object on a line; `write` and `force` are followed by `length` bytes. */
interface Request {
  readonly token?: unknown;
  readonly do?: unknown;
  readonly partition?: unknown;
  readonly path?: unknown;
  readonly length?: unknown;
  readonly to?: unknown;
  readonly key?: unknown;
  readonly down?: unknown;
  readonly connected?: unknown;
}

/**
 * The system link: what a running, trusted handset answers to its computer, and the stand-in's own panel (`view`, `watch`, `key`,
 * `cable`, `force`), which works in every mode because no real handset has it.
 */
export function createSystemServer(host: HandsetHost, token: string): Server {
  return createServer((socket) => {
    socket.on('error', () => undefined);
    new SystemSession(socket, host, token).serve().catch(() => socket.destroy());
  });
}

class SystemSession {
  private readonly queue = new ByteQueue();

  constructor(
    private readonly socket: Socket,
    private readonly host: HandsetHost,
    private readonly token: string,
  ) {
    socket.on('data', (bytes) => this.queue.push(new Uint8Array(bytes)));
    socket.on('close', () => this.queue.end(new EternoError('link-lost', 'the connection ended')));
  }

  private send(answer: object): void {
    if (!this.socket.destroyed) this.socket.write(`${JSON.stringify(answer)}\n`);
  }

  async serve(): Promise<void> {
    for (;;) {
      const line = await this.queue.line(LINE_BYTES);
      try {
        const request = JSON.parse(line) as Request;
        if (!this.trusted(request.token)) throw new EternoError('refused', 'the token is missing or wrong');
        await this.answer(request);
      } catch (thrown) {
        const error = thrown instanceof SyntaxError ? new EternoError('bad-field', 'a request is one JSON object on a line') : toEternoError(thrown);
        this.send({ ok: false, error: error.toData() });
      }
    }
  }

  private trusted(token: unknown): boolean {
    const [a, b] = [Buffer.from(String(token)), Buffer.from(this.token)];
    return a.length === b.length && timingSafeEqual(a, b);
  }

  private async answer(request: Request): Promise<void> {
    switch (request.do) {
      case 'view':
        return this.send({ ok: true, view: this.host.view() });
      case 'watch':
        return this.watch();
      case 'key':
        if (!KEYS.includes(request.key as Key)) throw new EternoError('bad-field', 'there is no such key');
        this.host.key(request.key as Key, request.down === true);
        return this.send({ ok: true });
      case 'cable':
        this.host.run({ do: 'cable', connected: request.connected === true });
        return this.send({ ok: true });
      case 'force':
        return this.force(request);
      case 'props':
      case 'restart':
      case 'root':
      case 'read':
      case 'write':
      case 'push':
      case 'list':
        return this.systemRequest(request);
      default:
        throw new EternoError('unsupported', `the system link knows no "${String(request.do)}"`);
    }
  }

  private async systemRequest(request: Request): Promise<void> {
    const payload = request.do === 'write' || request.do === 'push' ? await this.payload(request) : null;
    if (!this.host.state.cable) throw new EternoError('link-lost', 'the cable is out');
    if (this.host.state.mode !== 'system') throw new EternoError('link-lost', `no system runs on the handset: it is ${this.host.state.mode}`);
    switch (request.do) {
      case 'props':
        return this.send({ ok: true, text: propertyDump(this.host.profile, this.host.state) });
      case 'restart':
        if (request.to !== 'system' && request.to !== 'bootloader')
          throw new EternoError('handset-refused', `this handset can not restart into ${String(request.to)}`);
        this.host.run({ do: request.to === 'bootloader' ? 'enter-bootloader' : 'restart' });
        return this.send({ ok: true });
      case 'root':
        return this.askRoot();
      case 'read': {
        this.needRoot();
        const bytes = await this.host.store.readImage(this.partition(request));
        this.send({ ok: true, length: bytes.length });
        this.socket.write(bytes);
        return;
      }
      case 'write':
        this.needRoot();
        await this.host.write(this.partition(request), payload!, () => !this.socket.destroyed && this.host.state.cable);
        return this.send({ ok: true });
      case 'push':
        await this.host.store.pushFile(String(request.path), payload!);
        return this.send({ ok: true });
      case 'list':
        return this.send({ ok: true, files: await this.host.store.listFiles(String(request.path)) });
    }
  }

  private needRoot(): void {
    if (this.host.state.rootRequest !== 'granted') throw new EternoError('handset-refused', 'root was not granted');
  }
  private partition(request: Request): string {
    const name = String(request.partition);
    if (!(name in this.host.state.images)) throw new EternoError('handset-refused', `there is no partition ${name}`);
    return name;
  }
  private async payload(request: Request): Promise<Uint8Array> {
    const length = request.length;
    if (typeof length !== 'number' || !Number.isSafeInteger(length) || length < 0 || length > LIMITS.imageBytes)
      throw new EternoError('bad-field', 'a length is missing or too large');
    return this.queue.take(length);
  }

  /** Shows the prompt on the handset's screen and waits for its keys. */
  private async askRoot(): Promise<void> {
    this.host.run({ do: 'ask-root' });
    const answer = () => this.host.state.rootRequest;
    if (answer() === 'asked') {
      await new Promise<void>((resolve) => {
        const finish = () => {
          clearTimeout(timer);
          off();
          resolve();
        };
        const timer = setTimeout(() => {
          if (answer() === 'asked') this.host.run({ do: 'answer-root', allow: false });
        }, PROMPT_MS / this.host.speed);
        const off = this.host.onChange(() => {
          if (answer() !== 'asked') finish();
        });
      });
    }
    const { rooted } = this.host.view().state.running ?? { rooted: false };
    const granted = answer() === 'granted';
    this.send({
      ok: true,
      granted,
      uid: granted ? 0 : 2000,
      reason: granted ? null : rooted ? 'denied on the handset' : 'nothing on this system grants root',
    });
  }

  /** The stand-in's own panel: puts an image where no check would let it, to see what becomes of it. */
  private async force(request: Request): Promise<void> {
    const bytes = await this.payload(request);
    const partition = this.partition(request);
    const image = await this.host.store.writeImage(partition, bytes);
    this.host.force(partition, image);
    this.send({ ok: true });
  }

  private async watch(): Promise<void> {
    this.send({ ok: true, view: this.host.view() });
    const off = this.host.onChange(() => this.send({ ok: true, view: this.host.view() }));
    this.socket.on('close', off);
  }
}
