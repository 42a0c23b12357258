import { timingSafeEqual } from 'node:crypto';
import { open } from 'node:fs/promises';
import type { Server, Socket } from 'node:net';
import { createServer } from 'node:net';
import { EternoError, toEternoError } from '@/core/errors';
import type { Key } from '@/core/handset/keys';
import { KEYS } from '@/core/handset/keys';
import type { TouchId } from '@/core/handset/menus';
import type { HandsetOperation } from '@/core/handset/operate';
import { recoveryImage } from '@/core/handset/operate-modes';
import type { HandsetState } from '@/core/handset/state';
import { propertyDump } from '@/core/handset/variables';
import { LIMITS } from '@/core/limits';
import { ByteQueue } from '@/core/wire/byte-queue';
import type { HandsetHost } from './handset-host';
import { imageOfData, installFromInside, sideload, writeSet } from './on-disk';

const LINE_BYTES = 64 * 1024;
/** How long the handset waits for somebody to answer a root prompt. */
const PROMPT_MS = 60_000;

/** One request: a JSON object on a line; what carries bytes says their `length`. */
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
  readonly percent?: unknown;
  readonly id?: unknown;
  readonly on?: unknown;
  readonly only?: unknown;
  readonly keepData?: unknown;
}

const CARRIES_BYTES = ['write', 'push', 'force', 'set-part'];
const RESTARTS: Readonly<Record<string, HandsetOperation>> = {
  system: { do: 'restart' },
  bootloader: { do: 'enter-bootloader' },
  recovery: { do: 'enter-recovery' },
};

/**
 * The system link: what a running, trusted handset answers to its computer, and the stand-in's own panel (`view`, `watch`, `key`,
 * `touch`, `cable`, `battery`, `force`), which works in every mode because no real handset has it.
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
        const request = JSON.parse(line) as Request | null;
        if (typeof request !== 'object' || request === null) throw new EternoError('bad-field', 'a request is one JSON object on a line');
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
    const payload = CARRIES_BYTES.includes(String(request.do)) ? await this.payload(request) : null;
    switch (request.do) {
      case 'view':
        return this.send({ ok: true, view: this.host.view() });
      case 'watch':
        return this.watch();
      case 'key':
        if (!KEYS.includes(request.key as Key)) throw new EternoError('bad-field', 'there is no such key');
        this.host.key(request.key as Key, request.down === true);
        return this.send({ ok: true });
      case 'touch':
        await this.host.touch(request.id as TouchId);
        return this.send({ ok: true });
      case 'cable':
        this.host.inject({ cable: request.connected === true });
        return this.send({ ok: true });
      case 'battery':
        if (typeof request.percent !== 'number' || !(request.percent >= 0 && request.percent <= 100))
          throw new EternoError('bad-field', 'a battery is 0 to 100 percent full');
        this.host.inject({ batteryPercent: Math.round(request.percent) });
        return this.send({ ok: true });
      case 'force':
        return this.force(request, payload!);
      case 'listed':
        return this.listed();
      case 'sideload':
        return this.sideload(request);
      case 'image-data':
        this.needMode('recovery');
        return this.sendBytes(await imageOfData(this.host.onDisk));
      case 'set-part':
        this.needMode('download');
        this.set.set(String(request.partition), payload!);
        return this.send({ ok: true });
      case 'set-end':
        this.needMode('download');
        return this.endSet(request.keepData === true);
      case 'props':
      case 'status':
      case 'restart':
      case 'root':
      case 'read':
      case 'write':
      case 'push':
      case 'list':
      case 'pull':
      case 'install-kit':
      case 'modules':
        return this.systemRequest(request, payload);
      default:
        throw new EternoError('unsupported', `the system link knows no "${String(request.do)}"`);
    }
  }

  private needCable(): void {
    if (!this.host.state.cable) throw new EternoError('link-lost', 'the cable is out');
  }
  private needMode(mode: HandsetState['mode']): void {
    this.needCable();
    if (this.host.state.mode !== mode) throw new EternoError('link-lost', `the handset is ${this.host.state.mode}, not ${mode}`);
  }
  /** The recovery of one's own, where it runs: it answers for files and images as a rooted system does. */
  private get ownRecovery(): { readonly name: string } | null {
    const { profile, state } = this.host;
    return state.mode === 'recovery' ? (recoveryImage(profile, state)?.recovery ?? null) : null;
  }

  /** The line of a handset that is listed: its serial and the word for its mode. */
  private listed(): void {
    const { state, profile } = this.host;
    const there = state.mode === 'system' ? state.settings.debugging : ['recovery', 'sideload', 'download'].includes(state.mode);
    if (!state.cable || !there) throw new EternoError('link-lost', `no handset is listed${state.mode === 'system' ? ': debugging is off' : ''}`);
    this.send({
      ok: true,
      serial: profile.serial,
      mode: state.mode,
      slot: state.active,
      unlocked: !state.locked,
      recovery: this.ownRecovery?.name ?? null,
      batteryPercent: state.batteryPercent,
    });
  }

  private async systemRequest(request: Request, payload: Uint8Array | null): Promise<void> {
    const { state, profile } = this.host;
    this.needCable();
    if (state.mode !== 'system' && !(this.ownRecovery && ['restart', 'read', 'push', 'list', 'pull'].includes(String(request.do))))
      throw new EternoError('link-lost', `no system runs on the handset: it is ${state.mode}`);
    if (state.mode === 'system' && !state.settings.debugging) throw new EternoError('link-lost', 'its debugging is off: it trusts no computer');
    switch (request.do) {
      case 'props':
        return this.send({ ok: true, text: propertyDump(profile, state) });
      case 'status': {
        const { rootApp, modules, update, snapshot, settings, rootRequest, batteryPercent } = state;
        return this.send({ ok: true, rootApp, modules, update, snapshot, settings, rootRequest, batteryPercent, offer: this.host.panelOffer });
      }
      case 'restart': {
        const operation = RESTARTS[String(request.to)];
        if (!operation) throw new EternoError('handset-refused', `this handset can not restart into ${String(request.to)}`);
        this.host.run(operation);
        return this.send({ ok: true });
      }
      case 'root':
        return this.askRoot();
      case 'modules':
        if (!Array.isArray(request.only) || !request.only.every((id) => typeof id === 'string')) throw new EternoError('bad-field', 'which modules?');
        this.host.run({ do: 'modules', on: request.on === true, only: request.only });
        return this.send({ ok: true });
      case 'read':
        this.needRoot();
        return this.sendBytes(await this.host.store.readImage(this.partition(request)));
      case 'write': {
        this.needRoot();
        const partition = this.partition(request);
        await this.host.write(partition, payload!, () => !this.socket.destroyed && this.host.state.cable);
        this.host.wroteFromInside(partition);
        return this.send({ ok: true });
      }
      case 'push':
        await this.host.store.pushFile(String(request.path), payload!);
        await this.host.refresh();
        return this.send({ ok: true });
      case 'list':
        return this.send({ ok: true, files: await this.host.store.listFiles(String(request.path)) });
      case 'pull':
        return this.sendBytes(await this.host.store.readFile(String(request.path)));
      case 'install-kit':
        this.needRoot();
        await installFromInside(this.host.onDisk, String(request.path));
        return this.send({ ok: true });
    }
  }

  /** A package is taken to disk as it comes, then judged. */
  private async sideload(request: Request): Promise<void> {
    const length = this.length(request, LIMITS.sideloadBytes);
    this.needMode('sideload');
    const file = await open(this.host.store.incomingPath, 'w');
    try {
      for (let at = 0; at < length;) {
        const piece = await this.queue.take(Math.min(1 << 20, length - at));
        await file.write(piece);
        at += piece.length;
      }
    } finally {
      await file.close();
    }
    await sideload(this.host.onDisk, this.host.store.incomingPath);
    this.send({ ok: true });
  }

  /** What arrived of a firmware set in this connection. */
  private readonly set = new Map<string, Uint8Array>();
  private async endSet(keepData: boolean): Promise<void> {
    await writeSet(this.host.onDisk, this.set, keepData);
    this.set.clear();
    this.send({ ok: true });
  }

  private sendBytes(bytes: Uint8Array): void {
    this.send({ ok: true, length: bytes.length });
    this.socket.write(bytes);
  }

  private needRoot(): void {
    if (this.host.state.rootRequest !== 'granted' && !this.ownRecovery) throw new EternoError('handset-refused', 'root was not granted');
  }
  private partition(request: Request): string {
    const name = this.host.partitionName(String(request.partition));
    if (!Object.hasOwn(this.host.state.images, name)) throw new EternoError('handset-refused', `there is no partition ${name}`);
    return name;
  }
  private length({ length }: Request, mostBytes: number): number {
    if (typeof length !== 'number' || !Number.isSafeInteger(length) || length < 0 || length > mostBytes)
      throw new EternoError('bad-field', 'a length is missing or too large');
    return length;
  }
  private async payload(request: Request): Promise<Uint8Array> {
    return this.queue.take(this.length(request, LIMITS.imageBytes));
  }

  /** Shows the prompt on the handset's screen and waits for its keys. */
  private async askRoot(): Promise<void> {
    this.host.run({ do: 'ask-root' });
    const answer = () => this.host.state.rootRequest;
    if (answer() === 'asked') {
      await new Promise<void>((resolve) => {
        const finish = () => {
          callOff();
          off();
          resolve();
        };
        const callOff = this.host.time.after(PROMPT_MS, () => {
          if (answer() === 'asked') this.host.run({ do: 'answer-root', allow: false });
        });
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
  private async force(request: Request, bytes: Uint8Array): Promise<void> {
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
