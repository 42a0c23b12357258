import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import type { XzModuleLoader } from '@/platform/any/xz';

/** The xz encoder's WebAssembly from disk: its own loader fetches a URL, which Node can't. */
export const loadXzModule: XzModuleLoader = async () => {
  // put together at run time: a bundler that sees the whole name takes the file for a module
  const name = ['node-liblzma', 'wasm', 'liblzma.wasm'].join('/');
  const wasm = await readFile(/*turbopackIgnore: true*/ createRequire(import.meta.url).resolve(name));
  const { default: create } = await import('node-liblzma/wasm/liblzma.js');
  return (await create({
    wasmBinary: wasm.buffer.slice(wasm.byteOffset, wasm.byteOffset + wasm.length),
  } as never)) as never;
};
