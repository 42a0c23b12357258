/**
 * The few members of standard globals that core uses; declared here because core compiles without DOM and
 * Node types.
 */
interface AbortSignal {
  readonly aborted: boolean;
  readonly reason: unknown;
}
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean });
  decode(input?: Uint8Array): string;
}
declare class TextEncoder {
  encode(input?: string): Uint8Array<ArrayBuffer>;
}
