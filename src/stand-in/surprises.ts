import type { HandsetProfile, HandsetState } from '@/core/handset/state';
import { comeOver } from '@/core/handset/surprises';
import type { SurpriseId } from '@/core/words/surprises';
import type { OwnTime } from './own-time';
import type { StandInStore } from './stand-in-store';

/** In milliseconds of the handset's own time. */
const INTO_A_WRITE_MS = 200;
const PROMPT_STAYS_MS = 1500;
const OWN_UPDATE_MS = 45_000;
const RESTARTS_MS = 20_000;

/** A restart would start something else, or take root away: an update waits, or root runs and lies nowhere. */
function waitsForStart({ mode, update, running, images, active, insideRoot }: HandsetState): boolean {
  if (mode !== 'system') return false;
  const onDisk = Object.entries(images).some(
    ([name, { patchedBy }]) => name.endsWith(`_${active}`) && patchedBy !== null,
  );
  return update !== null || (running?.rooted === true && !onDisk && insideRoot !== 'lasting');
}

/** The simulated handset that they come over. */
interface Surprised {
  readonly profile: Pick<HandsetProfile, 'slotCount'>;
  readonly state: HandsetState;
  readonly time: OwnTime;
  plug(connected: boolean): void;
  /** Its updater takes the whole package that is out, unasked. */
  updateItself(): Promise<void>;
  run(operation: { readonly do: 'answer-root'; readonly allow: boolean } | { readonly do: 'restart' }): void;
}

/** What waits in a simulated handset, and what of it has come; kept with it. */
export class Surprises {
  private waiting: readonly SurpriseId[];
  came: readonly SurpriseId[];
  /** The build that ran last. */
  private was: string | null = null;

  private constructor(
    private readonly store: StandInStore,
    kept: { readonly waiting: readonly SurpriseId[]; readonly came: readonly SurpriseId[] },
  ) {
    ({ waiting: this.waiting, came: this.came } = kept);
  }

  static async open(store: StandInStore): Promise<Surprises> {
    return new Surprises(store, await store.readSurprises());
  }

  private happen(ids: readonly SurpriseId[]): void {
    if (ids.length === 0) return;
    this.waiting = this.waiting.filter((id) => !ids.includes(id));
    this.came = [...this.came, ...ids];
    // a folder that is gone keeps nothing
    void this.store.writeSurprises({ waiting: this.waiting, came: this.came }).catch(() => undefined);
  }

  /** From now on it may take its update by itself. */
  watch(handset: Surprised): void {
    this.was = handset.state.running?.build ?? handset.state.builds[handset.state.active];
    if (this.waiting.includes('own-update')) this.takeOwnUpdate(handset);
  }
  private takeOwnUpdate(handset: Surprised): void {
    handset.time.after(OWN_UPDATE_MS, () => {
      const { mode, update, snapshot } = handset.state;
      const again = () => this.takeOwnUpdate(handset);
      // nothing is out, or somebody took it already
      if (mode !== 'system' || update !== null || snapshot !== 'none') return again();
      handset.updateItself().then(() => this.happen(['own-update']), again);
    });
  }

  /** @returns the state after a change, with what comes over it then */
  after(handset: Surprised, before: HandsetState, state: HandsetState): HandsetState {
    const found = comeOver(handset.profile, before, state, this.waiting, this.was);
    this.happen(found.came);
    this.was = found.state.running?.build ?? this.was;
    if (waitsForStart(found.state) && !waitsForStart(before)) this.waits(handset);
    if (before.rootRequest !== 'asked' && found.state.rootRequest === 'asked') this.asks(handset);
    return found.state;
  }
  private waits(handset: Surprised): void {
    if (!this.waiting.includes('restarts-itself')) return;
    handset.time.after(RESTARTS_MS, () => {
      if (!waitsForStart(handset.state)) return;
      this.happen(['restarts-itself']);
      handset.run({ do: 'restart' });
    });
  }
  private asks(handset: Surprised): void {
    if (!this.waiting.includes('prompt-gone')) return;
    this.happen(['prompt-gone']);
    handset.time.after(PROMPT_STAYS_MS, () => {
      if (handset.state.rootRequest === 'asked') handset.run({ do: 'answer-root', allow: false });
    });
  }
  /** Half of what comes over the cable is there. */
  halfCame(handset: Surprised): void {
    if (!this.waiting.includes('cable-out')) return;
    this.happen(['cable-out']);
    handset.plug(false);
  }
  /** A write over the cable begins. */
  writeBegins(handset: Surprised): void {
    if (!this.waiting.includes('cable-out')) return;
    this.happen(['cable-out']);
    handset.time.after(INTO_A_WRITE_MS, () => handset.plug(false));
  }
}
