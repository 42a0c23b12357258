import type { Clock } from '@/core/clock';
import type { HeldKeys, Key, KeyAction } from '@/core/handset/keys';
import { heldAction, heldTooLong, pressAction } from '@/core/handset/keys';
import type { HandsetProfile, HandsetState } from '@/core/handset/state';

const TICK_MS = 50;

interface Pressed {
  readonly profile: HandsetProfile;
  readonly state: HandsetState;
  readonly ended: boolean;
  act(action: KeyAction | null): void;
}

/** Fingers on a simulated handset's keys; how long they are held passes as it does for hands. */
export class KeyPresses {
  private held: HeldKeys = {};
  private acted = false;
  private ticking = false;
  /** It was cut off by keys that are held still. */
  private cutOff = false;

  constructor(
    private readonly handset: Pressed,
    private readonly clock: Clock,
    /** Fingers whose time passes as on a hand can hold keys too long; those of a quick clock never mean to. */
    private readonly areReal: boolean,
  ) {}

  key(key: Key, down: boolean): void {
    if (down) {
      this.held = { ...this.held, [key]: this.held[key] ?? this.clock.now() };
      this.watchHeld();
      return;
    }
    const { [key]: since, ...rest } = this.held;
    this.held = rest;
    if (since === undefined) return;
    const { mode, rootRequest } = this.handset.state;
    if (!this.acted) this.handset.act(pressAction(mode, key, rootRequest === 'asked'));
    if (Object.keys(rest).length === 0) [this.acted, this.cutOff] = [false, false];
  }
  /** Looks again and again at keys that are held, until they are let go or have done something. */
  private watchHeld(): void {
    if (this.ticking || this.handset.ended) return;
    this.ticking = true;
    this.clock.after(TICK_MS, () => {
      this.ticking = false;
      if (Object.keys(this.held).length === 0) return;
      this.actOnHeld();
      this.watchHeld();
    });
  }
  private actOnHeld(): void {
    const { profile, state } = this.handset;
    if (this.handset.ended || this.cutOff) return;
    if (this.areReal && heldTooLong(state.mode, this.held, this.clock.now())) {
      [this.acted, this.cutOff] = [true, true];
      return this.handset.act('power-off');
    }
    if (this.acted) return;
    const action = heldAction(profile, state.mode, this.held, this.clock.now());
    if (action === 'enter-download' && !(profile.hasDownload && state.cable)) return;
    if (action) {
      this.acted = true;
      this.handset.act(action);
    }
  }
}
