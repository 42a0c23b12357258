import { EternoError } from '@/core/errors';
import type { HeldKeys, Key, KeyAction } from '@/core/handset/keys';
import { BOOTLOADER_MENU, heldAction, pressAction } from '@/core/handset/keys';
import type { HandsetOperation } from '@/core/handset/operate';
import { operate } from '@/core/handset/operate';
import type { ScreenModel } from '@/core/handset/screen';
import { screenOf } from '@/core/handset/screen';
import type { HandsetProfile, HandsetState, ImageFacts } from '@/core/handset/state';
import type { StandInStore } from './stand-in-store';

/** Real times of the simulated handset in milliseconds; `speed` divides them. */
const START_MS = 4000;
const LOOP_MS = 3000;
const TICK_MS = 50;
/** A write takes this long a mebibyte, so that a cable can be lost in the middle of it. */
const WRITE_MS_PER_MIB = 150;

export interface StandInView {
  readonly profile: Pick<HandsetProfile, 'id' | 'product' | 'model' | 'serial' | 'rootPartition'>;
  readonly state: HandsetState;
  readonly screen: ScreenModel;
}

/** The one simulated handset of this process: state, keys, time. Everything that changes goes through `run`. */
export class HandsetHost {
  private held: HeldKeys = {};
  private acted = false;
  private chosen = 0;
  private busy: string | null = null;
  private startTimer: NodeJS.Timeout | null = null;
  private readonly ticker: NodeJS.Timeout;
  private readonly listeners = new Set<() => void>();
  private saving: Promise<void> = Promise.resolve();

  constructor(
    readonly profile: HandsetProfile,
    private current: HandsetState,
    readonly store: StandInStore,
    readonly speed: number,
  ) {
    this.ticker = setInterval(() => this.tick(), TICK_MS / Math.min(speed, 5));
    this.afterChange();
  }

  get state(): HandsetState {
    return this.current;
  }
  view(): StandInView {
    const { id, product, model, serial, rootPartition } = this.profile;
    return {
      profile: { id, product, model, serial, rootPartition },
      state: this.current,
      screen: screenOf(this.profile, this.current, this.chosen, this.busy),
    };
  }
  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** @throws {EternoError} `handset-refused` with the machine's reason */
  run(operation: HandsetOperation): void {
    const result = operate(this.profile, this.current, operation);
    if (!result.ok) throw new EternoError('handset-refused', result.reason);
    this.current = result.state;
    this.save();
    this.afterChange();
  }
  /** The state as last saved is on disk. */
  saved(): Promise<void> {
    return this.saving;
  }

  private afterChange(): void {
    if (this.startTimer) clearTimeout(this.startTimer);
    this.startTimer = null;
    const { mode } = this.current;
    if (mode === 'starting' || mode === 'looping') {
      this.startTimer = setTimeout(() => this.run({ do: 'finish-start' }), (mode === 'starting' ? START_MS : LOOP_MS) / this.speed);
    }
    if (mode !== 'bootloader') this.chosen = 0;
    this.tell();
  }
  private tell(): void {
    for (const listener of this.listeners) listener();
  }

  key(key: Key, down: boolean): void {
    if (down) {
      this.held = { ...this.held, [key]: this.held[key] ?? this.now() };
      return;
    }
    const { [key]: since, ...rest } = this.held;
    this.held = rest;
    if (since === undefined) return;
    if (!this.acted) this.act(pressAction(this.current.mode, key, this.current.rootRequest === 'asked'));
    if (Object.keys(rest).length === 0) this.acted = false;
  }
  private now(): number {
    return Date.now() * this.speed;
  }
  private tick(): void {
    if (this.acted) return;
    const action = heldAction(this.current.mode, this.held, this.now());
    if (action) {
      this.acted = true;
      this.act(action);
    }
  }
  private act(action: KeyAction | null): void {
    switch (action) {
      case null:
        return;
      case 'menu-up':
      case 'menu-down':
        this.chosen = (this.chosen + (action === 'menu-up' ? BOOTLOADER_MENU.length - 1 : 1)) % BOOTLOADER_MENU.length;
        return this.tell();
      case 'menu-choose':
        return this.run({ do: (['restart', 'enter-bootloader', 'power-off'] as const)[this.chosen]! });
      case 'allow-root':
      case 'deny-root':
        return this.run({ do: 'answer-root', allow: action === 'allow-root' });
      default:
        return this.run({ do: action });
    }
  }

  /**
   * Writes an image the way a handset does: piece by piece, in its own time. A cable lost in the middle leaves the first pieces new
   * and the rest old.
   * @throws {EternoError} `handset-refused`, `link-lost`
   */
  async write(partition: string, bytes: Uint8Array, stillLinked: () => boolean): Promise<void> {
    const room = this.profile.partitionBytes[partition.replace(/_[ab]$/, '')];
    const check = operate(this.profile, this.current, {
      do: 'write',
      partition,
      image: { sha256: '', sizeBytes: bytes.length, broken: null, fingerprint: null, patchedBy: null, digestValid: null },
    });
    if (!check.ok || room === undefined) throw new EternoError('handset-refused', check.ok ? `there is no partition ${partition}` : check.reason);
    const old = await this.store.readImage(partition);
    const content = new Uint8Array(Math.max(room, old.length));
    content.set(old);
    this.busy = `writing ${partition}`;
    this.tell();
    let at = 0;
    try {
      while (at < bytes.length && stillLinked()) {
        const end = Math.min(bytes.length, at + (1 << 20));
        await new Promise((resolve) => setTimeout(resolve, WRITE_MS_PER_MIB / this.speed));
        content.set(bytes.subarray(at, end), at);
        at = end;
      }
    } finally {
      this.busy = null;
    }
    if (at === bytes.length) content.fill(0, bytes.length);
    const image = await this.store.writeImage(partition, content);
    this.run({ do: 'write', partition, image });
    await this.saved();
    if (at < bytes.length) throw new EternoError('link-lost', `the cable was lost after ${at} of ${bytes.length} bytes of ${partition}`);
  }

  /** Fills a partition with zeros. @throws {EternoError} `handset-refused` */
  async erase(partition: string): Promise<void> {
    const room = this.profile.partitionBytes[partition.replace(/_[ab]$/, '')] ?? 0;
    await this.write(partition, new Uint8Array(room), () => true);
  }

  /** Puts an image in place in any mode and lock state; only the stand-in's own panel can do that. */
  force(partition: string, image: ImageFacts): void {
    this.current = { ...this.current, images: { ...this.current.images, [partition]: image } };
    this.save();
    this.tell();
  }
  private save(): void {
    this.saving = this.saving.then(() => this.store.writeState(this.current)).catch(() => undefined);
  }

  async close(): Promise<void> {
    clearInterval(this.ticker);
    if (this.startTimer) clearTimeout(this.startTimer);
    await this.saving;
  }
}
