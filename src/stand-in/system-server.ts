import { timingSafeEqual } from 'node:crypto';
import { open, rm } from 'node:fs/promises';
import type { Server, Socket } from 'node:net';
import { createServer } from 'node:net';
import { memorySource } from '@/core/bytes/byte-source';
import { EternoError, toEternoError } from '@/core/errors';
import type { Key } from '@/core/handset/keys';
import { KEYS } from '@/core/handset/keys';
import type { TouchId } from '@/core/handset/menus';
import type { HandsetOperation } from '@/core/handset/operate';
import { recoveryImage } from '@/core/handset/operate-modes';
import type { HandsetState } from '@/core/handset/state';
import { propertyDump } from '@/core/handset/variables';
import { LIMITS } from '@/core/limits';
import type { Listed, SystemStatus } from '@/core/link/handset-link';
import type { AnyAsk, SystemAnswer, SystemAsk, SystemWord } from '@/core/link/system-messages';
import { readAsk } from '@/core/link/system-messages';
import { ByteQueue } from '@/core/wire/byte-queue';
import type { HandsetHost } from './handset-host';
import { endSet, imageOfData, installFromInside, sideload, writeSetPart } from './on-disk';

const LINE_BYTES = 64 * 1024;
/** How long the handset waits for somebody to answer a root prompt. */
const PROMPT_MS = 60_000;

const CARRIES_BYTES: readonly SystemWord[] = ['write', 'push', 'force'];
const RESTARTS: Readonly<Record<string, HandsetOperation>> = {
  system: { do: 'restart' },
  bootloader: { do: 'enter-bootloader' },
  recovery: { do: 'enter-recovery' },
};

/**
 * The system link: what a running, trusted handset answers to its computer, and the stand-in's own panel
 * (`view`, `watch`, `key`, `touch`, `cable`, `battery`, `force`), which works in every mode because no real
 * handset has it.
 */
export function createSystemServer(host: HandsetHost, token: string): Server {
  return createServer((socket) => {
    socket.on('error', () => undefined);
    new SystemSession(socket, host, token).serve().catch(() => socket.destroy());
  });
}

/** What a running system answers, and some of it a custom recovery. */
type SystemRequest = SystemAsk<
  | 'props'
  | 'status'
  | 'restart'
  | 'root'
  | 'modules'
  | 'read'
  | 'write'
  | 'push'
  | 'list'
  | 'pull'
  | 'install-package'
>;
const IN_RECOVERY: readonly SystemWord[] = ['restart', 'read', 'push', 'list', 'pull'];

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

  private write(answer: object): void {
    if (!this.socket.destroyed) this.socket.write(`${JSON.stringify(answer)}\n`);
  }
  private send<W extends SystemWord>(_to: W, answer: SystemAnswer<W>): void {
    this.write({ ok: true, ...answer });
  }

  async serve(): Promise<void> {
    for (;;) {
      const line = await this.queue.line(LINE_BYTES);
      try {
        const request = JSON.parse(line) as Readonly<Record<string, unknown>> | null;
        if (typeof request !== 'object' || request === null)
          throw new EternoError('bad-field', 'a request is one JSON object on a line');
        if (!this.trusted(request['token']))
          throw new EternoError('refused', 'the token is missing or wrong');
        await this.answer(readAsk(request));
      } catch (thrown) {
        const error =
          thrown instanceof SyntaxError
            ? new EternoError('bad-field', 'a request is one JSON object on a line')
            : toEternoError(thrown);
        this.write({ ok: false, error: error.toData() });
      }
    }
  }

  private trusted(token: unknown): boolean {
    const [a, b] = [Buffer.from(String(token)), Buffer.from(this.token)];
    return a.length === b.length && timingSafeEqual(a, b);
  }

  private async answer(request: AnyAsk): Promise<void> {
    const payload = CARRIES_BYTES.includes(request.do)
      ? await this.payload(request as { readonly length: number })
      : null;
    switch (request.do) {
      case 'view':
        return this.send('view', { view: this.host.view() });
      case 'watch':
        return this.watch();
      case 'key':
        if (!KEYS.includes(request.key as Key)) throw new EternoError('bad-field', 'there is no such key');
        this.host.key(request.key as Key, request.down);
        return this.send('key', {});
      case 'touch':
        await this.host.touch(request.id as TouchId);
        return this.send('touch', {});
      case 'cable':
        this.host.plug(request.connected);
        return this.send('cable', {});
      case 'battery':
        if (!(request.percent >= 0 && request.percent <= 100))
          throw new EternoError('bad-field', 'a battery is 0 to 100 percent full');
        this.host.inject({ batteryPercent: Math.round(request.percent) });
        return this.send('battery', {});
      case 'other-cable':
        this.host.otherCable();
        return this.send('other-cable', {});
      case 'fault':
        await this.host.putFault(request.fault);
        return this.send('fault', {});
      case 'desk':
        this.host.writeToDesk(request.text);
        return this.send('desk', {});
      case 'force':
        return this.force(request, payload!);
      case 'listed':
        return this.send('listed', this.listed());
      case 'comings':
        this.needCable();
        return this.send('comings', { comings: this.host.onCable.comings });
      case 'sideload':
        return this.sideload(request);
      case 'image-data':
        this.needMode('recovery');
        return this.sendBytes(await imageOfData(this.host.onDisk));
      case 'set-part':
        this.needMode('download');
        return this.setPart(request);
      case 'set-end':
        this.needMode('download');
        return this.endSet(request.keepData);
      default:
        return this.systemRequest(request, payload);
    }
  }

  private needCable(): void {
    if (!this.host.state.cable) throw new EternoError('link-lost', 'the cable is out');
  }
  private needMode(mode: HandsetState['mode']): void {
    this.needCable();
    if (this.host.state.mode !== mode)
      throw new EternoError('link-lost', `the handset is ${this.host.state.mode}, not ${mode}`);
  }
  /** The custom recovery, where it runs: it answers for files and images as a rooted system does. */
  private get customRecovery(): { readonly name: string } | null {
    const { profile, state } = this.host;
    return state.mode === 'recovery' ? (recoveryImage(profile, state)?.recovery ?? null) : null;
  }

  /** The line of a handset that is listed. */
  private listed(): Listed {
    const { state, profile } = this.host;
    const { mode } = state;
    const there = mode !== 'system' || state.settings.debugging;
    if (
      !state.cable ||
      !there ||
      (mode !== 'system' && mode !== 'recovery' && mode !== 'sideload' && mode !== 'download')
    )
      throw new EternoError(
        'link-lost',
        `no handset is listed${mode === 'system' ? ': debugging is off' : ''}`,
      );
    return {
      serial: profile.serial,
      mode,
      unlocked: !state.locked,
      recovery: this.customRecovery?.name ?? null,
      batteryPercent: state.batteryPercent,
      batteryOk: null,
    };
  }

  private status(): SystemStatus {
    const {
      rootApp,
      rootAppIs = null,
      modules,
      update,
      snapshot,
      settings,
      batteryPercent,
      running,
    } = this.host.state;
    const { updateRefused } = this.host;
    return {
      rootApp,
      rootAppIs,
      rootCommand: running?.rooted === true,
      modules,
      update,
      updateRefused,
      snapshot,
      settings,
      batteryPercent,
      bootId: this.host.onCable.bootId,
    };
  }

  private async systemRequest(request: SystemRequest, payload: Uint8Array | null): Promise<void> {
    const { state, profile } = this.host;
    this.needCable();
    if (state.mode !== 'system' && !(this.customRecovery && IN_RECOVERY.includes(request.do)))
      throw new EternoError('link-lost', `no system runs on the handset: it is ${state.mode}`);
    if (state.mode === 'system' && !state.settings.debugging)
      throw new EternoError('link-lost', 'its debugging is off: it trusts no computer');
    switch (request.do) {
      case 'props':
        return this.send('props', { text: propertyDump(profile, state) ?? '' });
      case 'status':
        return this.send('status', this.status());
      case 'restart': {
        const operation = RESTARTS[request.to];
        if (!operation)
          throw new EternoError('handset-refused', `this handset cannot restart into ${request.to}`);
        this.host.run(operation);
        return this.send('restart', {});
      }
      case 'root':
        return this.askRoot();
      case 'modules':
        this.host.run({ do: 'modules', on: request.on, only: request.only });
        return this.send('modules', {});
      case 'read':
        this.needRoot();
        return this.sendBytes(await this.host.store.readImage(this.partition(request)));
      case 'write': {
        this.needRoot();
        const partition = this.partition(request);
        await this.host.write({
          partition,
          source: memorySource(payload!),
          stillLinked: () => !this.socket.destroyed && this.host.state.cable,
          place: null,
        });
        this.host.wroteFromInside(partition);
        return this.send('write', {});
      }
      case 'push':
        await this.host.store.pushFile(request.path, payload!);
        await this.host.refresh();
        return this.send('push', {});
      case 'list':
        return this.send('list', { files: await this.host.store.listFiles(request.path) });
      case 'pull':
        return this.sendBytes(await this.host.store.readFile(request.path));
      case 'install-package':
        this.needRoot();
        await installFromInside(this.host.onDisk, request.path);
        return this.send('install-package', {});
    }
  }

  /** A package is taken to disk as it comes, then judged. */
  private async sideload(request: SystemAsk<'sideload'>): Promise<void> {
    const length = this.length(request, LIMITS.sideloadBytes);
    this.needMode('sideload');
    await this.toDisk(this.host.store.incomingPath, length);
    await sideload(this.host.onDisk, this.host.store.incomingPath);
    this.send('sideload', {});
  }

  /** Takes what comes to disk, piece by piece. */
  private async toDisk(path: string, length: number): Promise<void> {
    const file = await open(path, 'w');
    try {
      for (let at = 0; at < length;) {
        const piece = await this.queue.take(Math.min(1 << 20, length - at));
        await file.write(piece);
        at += piece.length;
        if (at * 2 >= length) this.host.halfCame();
        if (!this.host.state.cable)
          throw new EternoError('link-lost', `the cable was lost after ${at} bytes`);
      }
    } catch (thrown) {
      // what is still on its way belongs to nothing
      this.socket.destroy();
      await rm(path, { force: true });
      throw thrown;
    } finally {
      await file.close();
    }
  }

  /** Partitions of which an image of a firmware set was written in this connection. */
  private readonly set = new Set<string>();
  private async setPart(request: SystemAsk<'set-part'>): Promise<void> {
    await this.toDisk(
      this.host.store.setPartPath(request.partition),
      this.length(request, LIMITS.sideloadBytes),
    );
    await writeSetPart(this.host.onDisk, request.partition);
    this.set.add(request.partition);
    this.send('set-part', {});
  }
  private endSet(keepData: boolean): void {
    endSet(this.host.onDisk, this.set, keepData);
    this.set.clear();
    this.send('set-end', {});
  }

  private sendBytes(bytes: Uint8Array): void {
    this.send('read', { length: bytes.length });
    this.socket.write(bytes);
  }

  private needRoot(): void {
    if (this.host.state.rootRequest !== 'granted' && !this.customRecovery)
      throw new EternoError('handset-refused', 'root was not granted');
  }
  private partition(request: { readonly partition: string }): string {
    const name = this.host.partitionName(request.partition);
    if (!Object.hasOwn(this.host.state.images, name))
      throw new EternoError('handset-refused', `there is no partition ${name}`, {
        details: { reason: 'no-partition' },
      });
    return name;
  }
  private length({ length }: { readonly length: number }, mostBytes: number): number {
    if (!Number.isSafeInteger(length) || length < 0 || length > mostBytes)
      throw new EternoError('bad-field', 'a length is missing or too large');
    return length;
  }
  private async payload(request: { readonly length: number }): Promise<Uint8Array> {
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
    const granted = answer() === 'granted';
    this.send('root', {
      granted,
      uid: granted ? 0 : 2000,
      reason: granted ? null : this.host.state.running?.rooted ? 'denied' : 'no-root',
    });
  }

  /** The stand-in's own panel: puts an image where no check would let it, to see what becomes of it. */
  private async force(request: SystemAsk<'force'>, bytes: Uint8Array): Promise<void> {
    const partition = this.partition(request);
    const image = await this.host.store.writeImage(partition, bytes);
    this.host.force(partition, image);
    this.send('force', {});
  }

  private async watch(): Promise<void> {
    this.send('watch', { view: this.host.view() });
    const off = this.host.onChange(() => this.send('watch', { view: this.host.view() }));
    this.socket.on('close', off);
  }
}
