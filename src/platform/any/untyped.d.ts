declare module 'seek-bzip' {
  const bunzip: {
    decode(input: Uint8Array, output: { writeByte(byte: number): void }, multistream?: boolean): unknown;
  };
  export default bunzip;
}
declare module 'xz-decompress' {
  interface Xz {
    XzReadableStream: new (stream: ReadableStream<Uint8Array>) => ReadableStream<Uint8Array>;
  }
  const xz: Xz;
  export default xz;
  export const XzReadableStream: Xz['XzReadableStream'] | undefined;
}
