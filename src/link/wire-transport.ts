/** Messages of the bootloader wire protocol, whatever carries them. */
export interface WireTransport {
  send(message: Uint8Array): Promise<void>;
  /** The next message. @throws {EternoError} `link-lost` */
  receive(): Promise<Uint8Array<ArrayBuffer>>;
  close(): void;
}
