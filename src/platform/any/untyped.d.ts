declare module 'seek-bzip' {
  const bunzip: {
    decode(input: Uint8Array, output: { writeByte(byte: number): void }, multistream?: boolean): unknown;
  };
  export default bunzip;
}
declare module 'xz-decompress' {
  const xz: { XzReadableStream: new (stream: ReadableStream<Uint8Array>) => ReadableStream<Uint8Array> };
  export default xz;
}
