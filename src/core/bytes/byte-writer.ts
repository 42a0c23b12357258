/** Builds bytes front to back; grows as needed. */
export class ByteWriter {
  private buffer: Uint8Array<ArrayBuffer>;
  private view: DataView;
  private end = 0;

  constructor(capacity = 4096) {
    this.buffer = new Uint8Array(capacity);
    this.view = new DataView(this.buffer.buffer);
  }

  get length(): number {
    return this.end;
  }

  /** Makes room and gives its place. Call it before touching `buffer` or `view`: growing replaces both. */
  private room(count: number): number {
    const at = this.end;
    if (at + count > this.buffer.length) {
      const grown = new Uint8Array(Math.max(this.buffer.length * 2, at + count));
      grown.set(this.buffer.subarray(0, at));
      this.buffer = grown;
      this.view = new DataView(grown.buffer);
    }
    this.end = at + count;
    return at;
  }

  u16le(value: number): this {
    const at = this.room(2);
    this.view.setUint16(at, value, true);
    return this;
  }
  u32le(value: number): this {
    const at = this.room(4);
    this.view.setUint32(at, value, true);
    return this;
  }
  u32be(value: number): this {
    const at = this.room(4);
    this.view.setUint32(at, value, false);
    return this;
  }
  u64le(value: number): this {
    const at = this.room(8);
    this.view.setBigUint64(at, BigInt(value), true);
    return this;
  }
  u64be(value: number): this {
    const at = this.room(8);
    this.view.setBigUint64(at, BigInt(value), false);
    return this;
  }
  bytes(value: Uint8Array): this {
    const at = this.room(value.length);
    this.buffer.set(value, at);
    return this;
  }
  zeros(count: number): this {
    const at = this.room(count);
    this.buffer.fill(0, at, at + count);
    return this;
  }
  /** Zeros up to the next multiple of `multiple`. */
  align(multiple: number): this {
    const rest = this.end % multiple;
    return rest === 0 ? this : this.zeros(multiple - rest);
  }
  /** `value` as ASCII in a field of `count` bytes, zero filled. */
  ascii(value: string, count: number): this {
    const at = this.room(count);
    this.buffer.fill(0, at, at + count);
    for (let i = 0; i < Math.min(value.length, count); i += 1)
      this.buffer[at + i] = value.charCodeAt(i) & 0xff;
    return this;
  }
  finish(): Uint8Array<ArrayBuffer> {
    return this.buffer.slice(0, this.end);
  }
}
