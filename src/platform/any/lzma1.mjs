// the package's types are its sources, which our compiler settings refuse; here they are ours (lzma1.d.mts)
export { compress, decompress } from 'lzma1';
