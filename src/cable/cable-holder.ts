import type { CableMessage, CableOrder } from '@/contracts/cable-view';
import type { Digests } from '@/core/bytes/digest';
import { EternoError, toEternoError } from '@/core/errors';
import type { Usb, UsbDevice } from '@/core/link/usb-port';
import type { Silence } from '@/link/silence';
import { SILENCE } from '@/link/silence';
import { openUsbTransport, speaksWire, WIRE_INTERFACE } from '@/link/usb-transport';
import type { WireTransport } from '@/link/wire-transport';
import type { Desk } from './carry-over';
import { carryOver } from './carry-over';

/*
 * One handset on the cable of this page: the device that the person chose, found again when it comes back from
 * a restart, and the orders that come for it, one at a time.
 */

/** What a page shows of it. */
export interface HolderState {
  /** What the device calls itself; null while none is on the cable. */
  readonly device: string | null;
  readonly working: boolean;
}

interface Parts {
  readonly usb: Usb;
  readonly digests: Digests;
  readonly desk: Desk;
  readonly onChange?: (state: HolderState) => void;
  readonly silence?: Silence;
}

const nameOf = ({ productName }: UsbDevice) => productName ?? 'a handset in its bootloader';

export class CableHolder {
  private chosen: UsbDevice | null = null;
  private transport: WireTransport | null = null;
  private running: { readonly id: string; readonly abort: AbortController } | null = null;
  private turn: Promise<void> = Promise.resolve();

  constructor(private readonly parts: Parts) {}

  get state(): HolderState {
    return { device: this.transport ? nameOf(this.chosen!) : null, working: this.running !== null };
  }
  private tell(): void {
    this.parts.onChange?.(this.state);
  }

  /**
   * Has the person choose a device, and opens it. Has to be called by a press.
   * @throws {EternoError} `cancelled` where none was chosen, and of `openUsbTransport`
   */
  async choose(): Promise<void> {
    const { usb } = this.parts;
    const device = await usb.requestDevice({ filters: [WIRE_INTERFACE] }).catch((thrown: unknown) => {
      throw new EternoError('cancelled', 'No handset was chosen.', { cause: thrown });
    });
    this.release();
    this.chosen = device;
    await this.open();
  }

  private async open(): Promise<WireTransport> {
    const device = await this.present();
    if (device === null)
      throw new EternoError('link-lost', 'The handset is not on this cable now: cable, mode or power.');
    this.transport = await openUsbTransport(device, this.parts.silence ?? SILENCE);
    this.chosen = device;
    this.tell();
    return this.transport;
  }

  /** The chosen device, or the same handset as it came back; null where neither is on the cable. */
  private async present(): Promise<UsbDevice | null> {
    const devices = (await this.parts.usb.getDevices()).filter(speaksWire);
    const { chosen } = this;
    if (chosen === null) return null;
    const serial = chosen.serialNumber ?? null;
    return (
      devices.find((one) => one === chosen) ??
      devices.find((one) => serial !== null && one.serialNumber === serial) ??
      null
    );
  }

  /** What the server sends: orders are carried out one after another. */
  take(message: CableMessage): void {
    if ('stop' in message) {
      if (this.running?.id === message.stop)
        this.running.abort.abort(new EternoError('cancelled', 'Stopped on request.'));
      return;
    }
    this.turn = this.turn.then(() => this.carryOut(message.order));
  }

  /** Resolves when every order that came so far is over. */
  settled = (): Promise<void> => this.turn;

  private async carryOut(order: CableOrder): Promise<void> {
    const { desk, digests } = this.parts;
    const abort = new AbortController();
    this.running = { id: order.id, abort };
    this.tell();
    const report = await this.attempt(async () =>
      carryOver(desk, order, this.transport ?? (await this.open()), { digests, signal: abort.signal }),
    );
    this.running = null;
    // it goes off the line by itself
    if (order.work.do === 'restart' || order.work.do === 'start-once') this.letGo();
    this.tell();
    // a server that is gone has booked the order as lost
    await desk.report({ order: order.id, ...report }).catch(() => undefined);
  }

  private async attempt(work: () => Promise<unknown>) {
    try {
      return { is: 'done', value: await work() } as const;
    } catch (thrown) {
      const error = toEternoError(thrown);
      // what the handset refused in its own words leaves the line as it is
      if (error.code !== 'handset-refused' && error.code !== 'refused') this.letGo();
      return { is: 'failed', error: error.toData() } as const;
    }
  }

  /** It left the cable; it is opened anew when the next order comes. */
  gone(device: unknown): void {
    if (device === this.chosen) this.letGo();
  }
  private letGo(): void {
    this.transport?.close();
    this.transport = null;
    this.tell();
  }

  /** Gives the handset back; what runs is lost. */
  release(): void {
    this.running?.abort.abort(new EternoError('link-lost', 'The page gave the cable back.'));
    this.letGo();
    this.chosen = null;
  }
}
