import { concatBytes } from '@/core/bytes/bytes';
import { EternoError } from '@/core/errors';
import type { UsbDevice, UsbEndpoint, UsbFilter } from '@/core/link/usb-port';
import { beginsAnswer, COMMAND_BYTES } from '@/core/wire/messages';
import type { Silence } from './silence';
import { SILENCE } from './silence';
import type { WireTransport } from './wire-transport';

/*
 * The bootloader wire protocol over a browser's USB interface: each message is one bulk transfer, without a
 * length before it (docs/formats.md, "Bootloader wire protocol").
 */

/** The interface of a bootloader that speaks the protocol, as devices name it. */
export const WIRE_INTERFACE: UsbFilter = { classCode: 0xff, subclassCode: 0x42, protocolCode: 0x03 };

/** After a full packet: so long nothing more means that the message was exactly as long, in milliseconds. */
const FULL_PACKET_MS = 300;

interface Found {
  readonly configuration: number;
  readonly number: number;
  readonly input: UsbEndpoint;
  readonly output: UsbEndpoint;
}

/** Where a device speaks the protocol; null where it does not. */
function findInterface({ configurations }: UsbDevice): Found | null {
  for (const { configurationValue, interfaces } of configurations)
    for (const { interfaceNumber, alternate } of interfaces) {
      const { interfaceClass, interfaceSubclass, interfaceProtocol, endpoints } = alternate;
      const bulk = (direction: 'in' | 'out') =>
        endpoints.find((one) => one.type === 'bulk' && one.direction === direction);
      const [input, output] = [bulk('in'), bulk('out')];
      const speaks =
        interfaceClass === WIRE_INTERFACE.classCode &&
        interfaceSubclass === WIRE_INTERFACE.subclassCode &&
        interfaceProtocol === WIRE_INTERFACE.protocolCode;
      if (speaks && input && output)
        return { configuration: configurationValue, number: interfaceNumber, input, output };
    }
  return null;
}

export const speaksWire = (device: UsbDevice): boolean => findInterface(device) !== null;

const why = (thrown: unknown) => (thrown instanceof Error ? thrown.message : 'no reason given');

/** @throws {EternoError} `link-lost` where the device can't be opened, or another program holds its interface */
async function claim(device: UsbDevice, { configuration, number }: Found): Promise<void> {
  try {
    if (!device.opened) await device.open();
    if (device.configuration?.configurationValue !== configuration)
      await device.selectConfiguration(configuration);
  } catch (thrown) {
    throw new EternoError(
      'link-lost',
      `The browser could not open this handset: its driver, the rights of this user, or the cable (${why(thrown)}).`,
      { cause: thrown, details: { reason: 'not-opened' } },
    );
  }
  try {
    await device.claimInterface(number);
  } catch (thrown) {
    await device.close().catch(() => undefined);
    throw new EternoError(
      'link-lost',
      `Another program or page on this computer holds this handset. End it, then connect again (${why(thrown)}).`,
      { cause: thrown, details: { reason: 'claimed' } },
    );
  }
}

/** What comes within a time; `null` where nothing does. */
async function within<T>(work: Promise<T>, ms: number): Promise<T | null> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<null>((resolve) => {
    timer = setTimeout(() => resolve(null), ms);
  });
  try {
    return await Promise.race([work, late]);
  } finally {
    clearTimeout(timer);
  }
}

class UsbTransport implements WireTransport {
  /** A packet that was asked for and has not come: a transfer can't be called back. */
  private asked: Promise<Uint8Array<ArrayBuffer>> | null = null;
  private isOver = false;
  readonly breaksOff = false;

  constructor(
    private readonly device: UsbDevice,
    private readonly found: Found,
    readonly silence: Silence,
  ) {}

  /** What was sent is sent whole: the rest of a transfer that was taken in part goes behind it. */
  async send(message: Uint8Array): Promise<void> {
    for (let at = 0; at < message.length;) {
      const rest = message.slice(at);
      const result = await this.orLost(
        () => this.device.transferOut(this.found.output.endpointNumber, rest),
        this.silence.work,
      );
      if (result.status === 'stall') return this.stalled('out', this.found.output);
      if ((result.status ?? 'ok') !== 'ok' || result.bytesWritten <= 0)
        throw this.lost('the handset did not take what was sent');
      at += result.bytesWritten;
    }
  }

  async receive(silenceMs: number): Promise<Uint8Array<ArrayBuffer>> {
    const parts: Uint8Array[] = [];
    let size = 0;
    for (;;) {
      const packet = await this.packet(size === 0 ? silenceMs : FULL_PACKET_MS, size > 0);
      if (packet === null) return concatBytes(parts);
      // one that fills its last packet, and the next one right behind it
      if (size > 0 && beginsAnswer(packet)) {
        this.asked = Promise.resolve(packet);
        return concatBytes(parts);
      }
      // an empty packet ends a message that fills its last one; it may come late
      if (packet.length === 0 && size === 0) continue;
      parts.push(packet);
      size += packet.length;
      if (size > COMMAND_BYTES)
        throw new EternoError('too-large', `an answer of more than ${COMMAND_BYTES} bytes came`);
      if (packet.length < this.found.input.packetSize) return concatBytes(parts);
    }
  }

  /** The next packet; null where none comes and the message may have ended. */
  private async packet(ms: number, mayEnd: boolean): Promise<Uint8Array<ArrayBuffer> | null> {
    const packet = await this.orLost(async () => {
      this.asked ??= this.transferIn();
      this.asked.catch(() => undefined);
      const got = await within(this.asked, ms);
      if (got !== null || mayEnd) return got;
      throw this.lost(`the handset has said nothing for ${Math.round(ms / 1000)} s`);
    });
    if (packet !== null) this.asked = null;
    return packet;
  }

  private async transferIn(): Promise<Uint8Array<ArrayBuffer>> {
    const { endpointNumber, packetSize } = this.found.input;
    const { status = 'ok', data } = await this.device.transferIn(endpointNumber, packetSize);
    if (status === 'stall') return this.stalled('in', this.found.input);
    if (status !== 'ok') throw this.lost(`the transfer ended as "${status}"`);
    return data
      ? new Uint8Array(data.buffer as ArrayBuffer, data.byteOffset, data.byteLength).slice()
      : EMPTY;
  }

  /** The endpoint is made free again, for whoever connects next; what was under way is lost. */
  private async stalled(direction: 'in' | 'out', { endpointNumber }: UsbEndpoint): Promise<never> {
    await this.device.clearHalt(direction, endpointNumber).catch(() => undefined);
    throw this.lost('the handset stopped the transfer (stall)');
  }

  private lost(reason: string, cause?: unknown): EternoError {
    this.close();
    return new EternoError('link-lost', reason, cause === undefined ? {} : { cause });
  }

  private async orLost<T>(work: () => Promise<T>, ms?: number): Promise<T> {
    if (this.isOver) throw new EternoError('link-lost', 'the handset is gone');
    try {
      if (ms === undefined) return await work();
      const got = await within(
        work().then((value) => ({ value })),
        ms,
      );
      if (got === null) throw this.lost(`the handset took nothing for ${Math.round(ms / 1000)} s`);
      return got.value;
    } catch (thrown) {
      if (thrown instanceof EternoError) throw thrown;
      throw this.lost(`the handset is gone: cable, mode or power (${why(thrown)})`, thrown);
    }
  }

  close(): void {
    this.isOver = true;
    if (this.device.opened) void this.device.close().catch(() => undefined);
  }
}
const EMPTY = new Uint8Array(0);

/**
 * Opens a device that the person chose and claims its interface.
 * @throws {EternoError} `unsupported` for one that does not speak the protocol; `link-lost`, `details.reason`
 *   `claimed` where another program holds it and `not-opened` where the browser could not open it
 */
export async function openUsbTransport(
  device: UsbDevice,
  silence: Silence = SILENCE,
): Promise<WireTransport> {
  const found = findInterface(device);
  if (found === null)
    throw new EternoError(
      'unsupported',
      'This is no handset in its bootloader: it does not speak the protocol that writes.',
    );
  await claim(device, found);
  return new UsbTransport(device, found, silence);
}
