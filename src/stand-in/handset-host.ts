import { slotOf, unslotted } from '@/core/text/partition-names';
import { memorySource } from '@/core/bytes/byte-source';
import type { Clock } from '@/core/clock';
import { EternoError, toEternoError } from '@/core/errors';
import type { Key, KeyAction } from '@/core/handset/keys';
import type { Asked, Choice, TouchId } from '@/core/handset/menus';
import { menuOf, touched, touchesOf } from '@/core/handset/menus';
import type { HandsetOperation } from '@/core/handset/operate';
import { operate } from '@/core/handset/operate';
import type { Panel, ScreenModel } from '@/core/handset/screen';
import { PLAIN_PANEL, screenOf } from '@/core/handset/screen';
import type { HandsetProfile, HandsetState, ImageFacts } from '@/core/handset/state';
import type { SystemStatus, UpdateRefusal } from '@/core/link/handset-link';
import { putHiddenFault } from './hidden-fault';
import { answerOfDesk } from './unlocking-desk';
import type { OnDisk } from './on-disk';
import { installZip, offerOf, patchFile, takeUpdate } from './on-disk';
import { OnTheCable } from './on-the-cable';
import { KeyPresses } from './key-presses';
import { OwnTime } from './own-time';
import { answerOf, questionOf, settledRecoveries, whatKeysDo, wipedWords } from './own-recovery';
import type { Mail, StandInStore } from './stand-in-store';
import { Surprises } from './surprises';
import type { SurpriseId } from '@/core/words/surprises';
import type { ImageWrite } from './image-write';
import { writeImage } from './write-image';

/** How long the simulated handset takes, in milliseconds of its clock. */
const START_MS = 4000;
const LOOP_MS = 3000;
const MERGE_MS = 12_000;
const MAIL_MS = 20_000;
const OFFER_MS = 3000;

export interface StandInView {
  readonly profile: Pick<
    HandsetProfile,
    'id' | 'product' | 'model' | 'serial' | 'rootPartition' | 'slotCount'
  > & {
    /** Its maker mails a code for it. */
    readonly mails: boolean;
  };
  readonly state: HandsetState;
  readonly screen: ScreenModel;
  readonly mail: readonly Mail[];
  /** How long was waited for it so far, in milliseconds of its own time. */
  readonly waitedMs: number;
  /** Surprises that have come over it, in their order. */
  readonly came: readonly SurpriseId[];
}

/** On which its own times pass, and those of who holds its keys. */
export interface Clocks {
  readonly clock: Clock;
  /** Null where they are as quick as its own times. */
  readonly hands: Clock | null;
}

/** One simulated handset: state, keys, time. Everything that changes goes through `run`. */
export class HandsetHost {
  private panel: Panel = PLAIN_PANEL;
  private mail: readonly Mail[] = [];
  /** What calls off the end of a start, a loop or a merge. */
  private callOff: (() => void) | null = null;
  private readonly listeners = new Set<() => void>();
  private saving: Promise<void> = Promise.resolve();
  private closed = false;
  readonly time: OwnTime;
  private readonly keys: KeyPresses;
  /** An image that is being started from memory, until its start is over. */
  private fromMemory: ImageFacts | null = null;

  private constructor(
    readonly profile: HandsetProfile,
    private current: HandsetState,
    readonly store: StandInStore,
    readonly onCable: OnTheCable,
    private readonly surprises: Surprises,
    { clock, hands }: Clocks,
  ) {
    this.time = new OwnTime(clock);
    this.keys = new KeyPresses(this, hands ?? clock, hands !== null);
  }

  /** The handset as it lies on disk. @throws {EternoError} `not-found` where it was never made */
  static async open(store: StandInStore, clocks: Clocks): Promise<HandsetHost> {
    const [profile, state] = [await store.readProfile(), await store.readState()];
    const onCable = await OnTheCable.open(store, state);
    const host = new HandsetHost(profile, state, store, onCable, await Surprises.open(store), clocks);
    host.mail = await store.readMail();
    await host.refresh();
    host.afterChange();
    host.surprises.watch(host);
    return host;
  }

  get state(): HandsetState {
    return this.current;
  }
  view(): StandInView {
    const { id, product, model, serial, rootPartition, slotCount, unlockPath } = this.profile;
    const mails = unlockPath === 'mailed code' && this.current.locked;
    return {
      profile: { id, product, model, serial, rootPartition, slotCount, mails },
      state: this.current,
      screen: screenOf(this.profile, this.current, this.panel),
      mail: this.mail,
      waitedMs: this.time.waitedMs,
      came: this.surprises.came,
    };
  }
  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }
  /** What the stand-in's own panel changes: battery, cable and faults, whatever mode it is in. */
  inject(change: Partial<HandsetState>): void {
    this.become({ ...this.current, ...change });
  }
  private become(state: HandsetState): void {
    this.current = state;
    this.save();
    this.tell();
  }
  /** Its cable in or out; a dead one carries nothing, in or not. */
  plug = (connected: boolean) => this.inject({ cable: connected && this.current.deadCable !== true });
  otherCable(): void {
    const { deadCable: _dead, ...state } = this.current;
    this.become({ ...state, cable: true });
  }
  /** As `putHiddenFault` does it; what merges stops where it is. @throws {EternoError} `handset-refused` */
  async putFault(fault: string): Promise<void> {
    this.become(await putHiddenFault(this, fault));
    this.afterChange();
  }

  /** @throws {EternoError} `handset-refused` with the machine's reason */
  run(operation: HandsetOperation): void {
    const result = operate(this.profile, this.current, operation);
    if (!result.ok) throw new EternoError('handset-refused', result.reason);
    const before = this.current;
    this.current = this.surprises.after(this, before, result.state);
    this.saving = Promise.all([this.saving, this.onCable.saw(before, this.current)]).then(() => undefined);
    this.saving = this.saving.then(async () => {
      const images = await settledRecoveries(this.store, this.profile, before, this.current);
      this.current = { ...this.current, images: { ...this.current.images, ...images } };
    });
    const asked = questionOf(this.profile, before, this.current);
    if (before.mode !== this.current.mode)
      this.panel = { ...this.panel, chosen: 0, asked, said: null, restartOffered: false };
    else if (asked) this.panel = { ...this.panel, chosen: 0, asked };
    this.save();
    this.afterChange();
  }
  saved = (): Promise<void> => this.saving;
  show(change: Partial<Panel>): void {
    this.panel = { ...this.panel, ...change };
    this.tell();
  }
  /** Shows why something was refused; never throws. */
  private attempt(work: () => void | Promise<void>): void {
    void (async () => work())().catch((thrown: unknown) =>
      this.show({
        said: thrown instanceof Error ? thrown.message : 'refused',
        busy: null,
        asked: null,
        chosen: 0,
      }),
    );
  }

  /** What of the panel lies on disk: the update that is offered, the packages on its storage. */
  async refresh(): Promise<void> {
    const files = (await this.store.listFiles('/')).map(({ path }) => path);
    const zips = files.filter((path) => path.endsWith('.zip'));
    const canPatch = zips.length > 0 && files.some((path) => path.endsWith('.img'));
    this.show({ offer: await offerOf(this.store, this.profile, this.current), zips, canPatch });
  }

  private afterChange(): void {
    this.callOff?.();
    this.callOff = null;
    if (this.closed) return;
    const { mode, snapshot } = this.current;
    if (mode !== 'starting') this.fromMemory = null;
    if (mode === 'starting') this.callOff = this.time.after(START_MS, () => this.finishStart());
    else if (mode === 'looping') this.callOff = this.time.after(LOOP_MS, () => this.finishStart());
    else if (mode === 'system' && snapshot === 'merging' && this.current.mergeStuck !== true)
      this.callOff = this.time.after(MERGE_MS, () => this.run({ do: 'wait-for-merge' }));
    this.tell();
  }
  private finishStart(): void {
    const image = this.fromMemory;
    // the next start is from the disk again, however this one ends
    this.fromMemory = null;
    if (image) {
      // the machine's start from memory begins in the bootloader and is over at once; the time it takes is
      // this process's
      this.current = { ...this.current, mode: 'bootloader' };
      this.run({ do: 'start-once', image });
    } else this.run({ do: 'finish-start' });
    void this.refresh();
  }
  private tell(): void {
    for (const listener of this.listeners) listener();
  }

  /** A finger goes down on a key, or comes off it. */
  key = (key: Key, down: boolean): void => this.keys.key(key, down);
  act(action: KeyAction | null): void {
    const menu = menuOf(this.profile, this.current, this.panel.asked, this.panel.zips);
    switch (action) {
      case null:
        return;
      case 'menu-up':
      case 'menu-down':
        if (menu.length === 0) return;
        return this.show({
          chosen: (this.panel.chosen + (action === 'menu-up' ? menu.length - 1 : 1)) % menu.length,
        });
      case 'menu-choose': {
        const choice = menu[this.panel.chosen]?.choice;
        return choice && this.panel.busy === null ? this.attempt(() => this.choose(choice)) : undefined;
      }
      case 'unlock-chord':
        return this.current.locked && this.profile.unlockPath === 'key chord'
          ? this.ask('unlock')
          : undefined;
      case 'allow-root':
      case 'deny-root':
        return this.attempt(() => this.run({ do: 'answer-root', allow: action === 'allow-root' }));
      default:
        return this.attempt(() => this.run({ do: whatKeysDo(this.profile, this.current, action) }));
    }
  }
  /** Asks once more on its own screen before something is erased. */
  ask(what: Asked): void {
    this.show({ asked: what, chosen: 0 });
  }

  private async choose(choice: Choice): Promise<void> {
    switch (choice.do) {
      case 'ask':
        return this.ask(choice.what);
      case 'leave':
        return this.answer(this.panel.asked!, false);
      case 'agree':
        return this.answer(choice.what, true);
      case 'erase-cache':
        this.run({ do: 'wipe', kind: 'cache' });
        return this.show({ said: 'The cache is empty.' });
      case 'install':
        return installZip(this.onDisk, choice.path);
      default:
        return this.run({ do: choice.do });
    }
  }
  private answer(what: Asked, yes: boolean): void {
    this.show({ asked: null, chosen: 0 });
    const operation = answerOf(what, yes, this.code);
    if (operation) this.run(operation);
    if (yes) this.show({ said: wipedWords(what) });
  }
  /** The code that came with the request to unlock, until it is answered. */
  code: string | null = null;

  get onDisk(): OnDisk {
    const { profile, current: state, store, time } = this;
    return {
      profile,
      state,
      store,
      time,
      run: (operation) => this.run(operation),
      show: (change) => this.show(change),
    };
  }

  /**
   * What a finger does on the running system.
   * @throws {EternoError} `handset-refused` where the screen does not offer it
   */
  async touch(id: TouchId): Promise<void> {
    if (
      this.panel.busy !== null ||
      !touchesOf(this.profile, this.current, this.panel).some((one) => one.id === id)
    )
      throw new EternoError('handset-refused', 'its screen does not offer that now');
    switch (id) {
      case 'restart now':
        return this.run({ do: 'restart' });
      case 'later':
        this.show({ restartOffered: false, said: 'The restart was put off.' });
        return this.offerAgain();
      case 'take update':
      case 'take whole update':
        this.offersLeft = 1;
        return this.attempt(() => this.takeUpdate(id === 'take whole update'));
      case 'patch file':
        return this.attempt(() => patchFile(this.onDisk));
      default:
        return this.run(touched(id, this.current.settings));
    }
  }
  /** When and why its updater last would not take an update. */
  updateRefused: SystemStatus['updateRefused'] = null;
  private async takeUpdate(whole: boolean): Promise<void> {
    await takeUpdate(this.onDisk, whole).catch((thrown: unknown) => {
      const { details } = toEternoError(thrown);
      this.updateRefused = {
        why: (details?.['reason'] as UpdateRefusal | undefined) ?? 'other',
        at: this.time.now(),
      };
      throw thrown;
    });
  }
  async updateItself(): Promise<void> {
    if (this.panel.busy !== null) throw new EternoError('handset-refused', 'it is busy');
    this.offersLeft = 1;
    await takeUpdate(this.onDisk, true);
  }
  /** The slot that waits was changed, and the system wishes once more to restart. */
  wroteFromInside(partition: string): void {
    if (this.current.update === null || !partition.endsWith(`_${this.current.update.slot}`)) return;
    this.offersLeft = 1;
    this.show({ restartOffered: true });
  }
  /** A system that waits for its restart asks for it again, so often. */
  offersLeft = 0;
  private offerAgain(): void {
    if (this.offersLeft === 0) return;
    this.offersLeft -= 1;
    this.time.after(OFFER_MS, () => {
      if (this.current.mode === 'system' && this.current.update !== null) this.show({ restartOffered: true });
    });
  }
  /** What is sent to its maker's unlocking desk is answered by mail, after a while. */
  writeToDesk(text: string): void {
    const { profile } = this;
    const answer = answerOfDesk(profile, text);
    this.time.after(MAIL_MS, () => {
      this.mail = [{ from: 'unlocking desk', ...answer }, ...this.mail];
      void this.store.writeMail(this.mail);
      this.tell();
    });
  }

  /** A start from memory takes as long as any. @throws {EternoError} `handset-refused` */
  startOnce(image: ImageFacts): void {
    const check = operate(this.profile, this.current, { do: 'start-once', image });
    if (!check.ok) throw new EternoError('handset-refused', check.reason);
    this.fromMemory = image;
    this.run({ do: 'restart' });
  }

  /** As `writeImage` does it. @throws {EternoError} `handset-refused`, `link-lost` */
  write(write: ImageWrite): Promise<void> {
    this.surprises.writeBegins(this);
    return writeImage(this, write);
  }
  /** Half of a package or of a part of a set has come. */
  halfCame = (): void => this.surprises.halfCame(this);
  get ended(): boolean {
    return this.closed;
  }

  /** On a handset with one slot partitions have no slot in their names. */
  partitionName(name: string): string {
    return this.profile.slotCount === 1 && slotOf(name) === null ? `${name}_a` : name;
  }

  /** Fills a partition with zeros. @throws {EternoError} `handset-refused` */
  async erase(partition: string): Promise<void> {
    const room = this.profile.partitionBytes[unslotted(partition)] ?? 0;
    const source = memorySource(new Uint8Array(room));
    await this.write({ partition, source, stillLinked: () => true, place: null });
  }

  /** Puts an image in place in any mode and lock state; only the stand-in's own panel can do that. */
  force = (partition: string, image: ImageFacts) =>
    this.inject({ images: { ...this.current.images, [partition]: image } });
  private save(): void {
    if (this.closed) return;
    this.saving = this.saving.then(() => this.store.writeState(this.current)).catch(() => undefined);
  }

  async close(): Promise<void> {
    this.closed = true;
    this.time.end();
    await this.saving;
  }
}
