/** Growing output of bytes, varints and bit fields; the base of the block format. */
export class ByteWriter {
  private bytes = new Uint8Array(512);
  private view = new DataView(this.bytes.buffer);
  private length = 0;
  /** Bits already used in the byte at `length`; 0 when aligned. */
  private bit = 0;

  private room(extra: number) {
    const needed = this.length + extra + 1;
    if (needed <= this.bytes.length) return;
    const grown = new Uint8Array(Math.max(needed, this.bytes.length * 2));
    grown.set(this.bytes);
    this.bytes = grown;
    this.view = new DataView(grown.buffer);
  }

  byte(value: number) {
    this.align();
    this.room(1);
    this.bytes[this.length++] = value;
  }

  /** Unsigned integer below 2^53, seven bits a byte, lowest first. */
  varint(value: number) {
    this.align();
    this.room(8);
    let rest = value;
    while (rest >= 128) {
      this.bytes[this.length++] = (rest % 128) | 128;
      rest = Math.floor(rest / 128);
    }
    this.bytes[this.length++] = rest;
  }

  /** The 64 bits of a float, as two words, so that a NaN keeps its payload. */
  words(high: number, low: number) {
    this.align();
    this.room(8);
    this.view.setUint32(this.length, high);
    this.view.setUint32(this.length + 4, low);
    this.length += 8;
  }

  /** The lowest `width` bits (0 to 32) of an unsigned 32-bit value, highest first. */
  bits(value: number, width: number) {
    this.room(5);
    let left = width;
    while (left > 0) {
      const free = 8 - this.bit;
      const take = Math.min(left, free);
      const part = (value >>> (left - take)) & ((1 << take) - 1);
      if (this.bit === 0) this.bytes[this.length] = 0;
      this.bytes[this.length] |= part << (free - take);
      this.bit += take;
      left -= take;
      if (this.bit === 8) {
        this.bit = 0;
        this.length++;
      }
    }
  }

  align() {
    if (this.bit === 0) return;
    this.bit = 0;
    this.length++;
  }

  finish(): Uint8Array {
    this.align();
    return this.bytes.slice(0, this.length);
  }
}

/** Reads what `ByteWriter` wrote. @throws RangeError past the end */
export class ByteReader {
  private at = 0;
  private bit = 0;
  private readonly view: DataView;

  constructor(private readonly source: Uint8Array) {
    this.view = new DataView(source.buffer, source.byteOffset, source.byteLength);
  }

  byte(): number {
    this.align();
    return this.view.getUint8(this.at++);
  }

  varint(): number {
    this.align();
    let value = 0;
    let scale = 1;
    for (;;) {
      const byte = this.view.getUint8(this.at++);
      value += (byte & 127) * scale;
      if (byte < 128) return value;
      scale *= 128;
    }
  }

  words(): [high: number, low: number] {
    this.align();
    this.at += 8;
    return [this.view.getUint32(this.at - 8), this.view.getUint32(this.at - 4)];
  }

  bits(width: number): number {
    if (width === 0) return 0;
    // Five bytes ahead hold any field at once; at the end of the block they are taken one by one.
    if (this.at + 5 <= this.source.length) {
      const word = this.view.getUint32(this.at) << this.bit;
      const value =
        this.bit + width > 32
          ? (word | (this.source[this.at + 4] >>> (8 - this.bit))) >>> (32 - width)
          : word >>> (32 - width);
      this.bit += width;
      this.at += this.bit >> 3;
      this.bit &= 7;
      return value;
    }
    let value = 0;
    let left = width;
    while (left > 0) {
      if (this.at >= this.source.length) throw new RangeError("the block ends early");
      const free = 8 - this.bit;
      const take = Math.min(left, free);
      value = (value << take) | ((this.source[this.at] >>> (free - take)) & ((1 << take) - 1));
      this.bit += take;
      left -= take;
      if (this.bit === 8) {
        this.bit = 0;
        this.at++;
      }
    }
    return value >>> 0;
  }

  align() {
    if (this.bit === 0) return;
    this.bit = 0;
    this.at++;
  }

  /** Passes over `count` bytes without reading them. */
  skip(count: number) {
    this.align();
    this.at += count;
  }

  /** The next `count` bytes, as a view. */
  part(count: number): Uint8Array {
    this.align();
    this.at += count;
    return this.source.subarray(this.at - count, this.at);
  }
}
