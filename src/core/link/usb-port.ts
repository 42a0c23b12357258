/*
 * What the link needs of a browser's USB interface (docs/formats.md, "Bootloader wire protocol"), so that it can
 * be played by a simulated device as well. Names are the browser's own.
 */

export interface UsbEndpoint {
  readonly endpointNumber: number;
  readonly direction: 'in' | 'out';
  readonly type: string;
  /** Bytes; a transfer ends with a packet that is shorter. */
  readonly packetSize: number;
}
export interface UsbAlternate {
  readonly interfaceClass: number;
  readonly interfaceSubclass: number;
  readonly interfaceProtocol: number;
  readonly endpoints: readonly UsbEndpoint[];
}
export interface UsbInterface {
  readonly interfaceNumber: number;
  readonly alternate: UsbAlternate;
}
export interface UsbConfiguration {
  readonly configurationValue: number;
  readonly interfaces: readonly UsbInterface[];
}
/** `status` is `ok`, `stall` or `babble`. */
export interface UsbInResult {
  readonly status?: string;
  readonly data?: DataView;
}
export interface UsbOutResult {
  readonly status?: string;
  readonly bytesWritten: number;
}

export interface UsbDevice {
  readonly productName?: string | null;
  readonly serialNumber?: string | null;
  readonly opened: boolean;
  readonly configuration: UsbConfiguration | null;
  readonly configurations: readonly UsbConfiguration[];
  open(): Promise<void>;
  close(): Promise<void>;
  selectConfiguration(value: number): Promise<void>;
  claimInterface(number: number): Promise<void>;
  clearHalt(direction: 'in' | 'out', endpoint: number): Promise<void>;
  transferIn(endpoint: number, length: number): Promise<UsbInResult>;
  transferOut(endpoint: number, data: Uint8Array<ArrayBuffer>): Promise<UsbOutResult>;
}

export interface UsbFilter {
  readonly classCode: number;
  readonly subclassCode: number;
  readonly protocolCode: number;
}
export interface Usb {
  getDevices(): Promise<readonly UsbDevice[]>;
  /** The browser asks the person. Rejects with `NotFoundError` where they chose none. */
  requestDevice(options: { readonly filters: readonly UsbFilter[] }): Promise<UsbDevice>;
}
