import { concatBytes } from '../bytes/bytes';
import { EternoError } from '../errors';

/** Bytes that arrive in pieces, taken out in the portions that a protocol wants. One taker at a time. */
export class ByteQueue {
  private parts: Uint8Array[] = [];
  private length = 0;
  private ended: EternoError | null = null;
  private wake: (() => void) | null = null;

  push(bytes: Uint8Array): void {
    this.parts.push(bytes);
    this.length += bytes.length;
    this.wake?.();
  }

  /** No more will come; takers that want more fail with this error. */
  end(error: EternoError): void {
    this.ended ??= error;
    this.wake?.();
  }

  private async more(): Promise<void> {
    if (this.ended) throw this.ended;
    await new Promise<void>((resolve) => {
      this.wake = () => {
        this.wake = null;
        resolve();
      };
    });
  }

  /** Exactly `count` bytes. @throws {EternoError} what `end` was given, when they never come */
  async take(count: number): Promise<Uint8Array<ArrayBuffer>> {
    while (this.length < count) await this.more();
    const all = concatBytes(this.parts);
    this.parts = count < all.length ? [all.subarray(count)] : [];
    this.length = all.length - count;
    return all.slice(0, count);
  }

  /** Whatever is there, up to `most` bytes, at least one. */
  async takeSome(most: number): Promise<Uint8Array<ArrayBuffer>> {
    while (this.length === 0) await this.more();
    return this.take(Math.min(most, this.parts[0]!.length));
  }

  /**
   * Text up to the next line feed, which is taken too.
   * @throws {EternoError} `too-large` past `limitBytes`
   */
  async line(limitBytes: number): Promise<string> {
    for (;;) {
      const all = concatBytes(this.parts);
      this.parts = all.length > 0 ? [all] : [];
      const at = all.indexOf(0x0a);
      if (at >= 0) return new TextDecoder().decode((await this.take(at + 1)).subarray(0, at));
      if (all.length > limitBytes)
        throw new EternoError('too-large', `a line of more than ${limitBytes} bytes arrived`);
      await this.more();
    }
  }
}
