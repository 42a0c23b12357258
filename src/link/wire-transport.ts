import type { Silence } from './silence';

/** Messages of the bootloader wire protocol, whatever carries them. */
export interface WireTransport {
  send(message: Uint8Array): Promise<void>;
  readonly silence: Silence;
  /** The next message. @throws {EternoError} `link-lost`, also where none comes within `silenceMs` */
  receive(silenceMs: number): Promise<Uint8Array<ArrayBuffer>>;
  close(): void;
}
