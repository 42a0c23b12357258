import { EternoError } from '../errors';

/** Checked reading of numbers from bytes. Every method throws `truncated` past the end. */
export class ByteCursor {
  private readonly view: DataView;
  /** @param base offset of `bytes[0]` in the file, for error messages */
  constructor(
    readonly bytes: Uint8Array,
    public at = 0,
    private readonly file = 'bytes',
    private readonly base = 0,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  get left(): number {
    return this.bytes.length - this.at;
  }

  private claim(count: number): number {
    if (!Number.isSafeInteger(count) || count < 0 || count > this.left) {
      throw new EternoError('truncated', `${count} bytes are wanted, ${this.left} are left`, {
        file: this.file,
        offset: this.base + this.at,
      });
    }
    const at = this.at;
    this.at += count;
    return at;
  }

  u16le(): number {
    return this.view.getUint16(this.claim(2), true);
  }
  u32le(): number {
    return this.view.getUint32(this.claim(4), true);
  }
  u32be(): number {
    return this.view.getUint32(this.claim(4), false);
  }
  u64le(): number {
    return this.safe(this.view.getBigUint64(this.claim(8), true));
  }
  u64be(): number {
    return this.safe(this.view.getBigUint64(this.claim(8), false));
  }
  take(count: number): Uint8Array {
    const at = this.claim(count);
    return this.bytes.subarray(at, at + count);
  }
  skip(count: number): void {
    this.claim(count);
  }

  private safe(value: bigint): number {
    if (value > BigInt(Number.MAX_SAFE_INTEGER)) {
      throw new EternoError('bad-field', `the 64-bit number ${value} is beyond what any file holds`, {
        file: this.file,
        offset: this.base + this.at - 8,
      });
    }
    return Number(value);
  }
}
