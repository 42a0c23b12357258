import type { Silence } from './silence';

/** Messages of the bootloader wire protocol, whatever carries them. */
export interface WireTransport {
  send(message: Uint8Array): Promise<void>;
  readonly silence: Silence;
  /**
   * A download may be broken off in its middle: the next connection begins afresh. Where it may not the handset
   * would take the next command for data, and a stop waits for the download's end.
   */
  readonly breaksOff: boolean;
  /** The next message. @throws {EternoError} `link-lost`, also where none comes within `silenceMs` */
  receive(silenceMs: number): Promise<Uint8Array<ArrayBuffer>>;
  close(): void;
}
