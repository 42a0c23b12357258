declare module 'seek-bzip' {
  const bunzip: {
    decode(
      input: { readByte(): number; read(target: Uint8Array, offset: number, length: number): number },
      output: { writeByte(byte: number): void },
      multistream?: boolean,
    ): unknown;
  };
  export default bunzip;
}
declare module 'comlink/dist/esm/node-adapter.mjs' {
  export { default } from 'comlink/dist/esm/node-adapter';
}
