/** Rows into PostgreSQL by binary COPY. */
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type pg from "pg";
import { from as copyFrom } from "pg-copy-streams";

const HEADER = Buffer.from("5047434f50590aff0d0a000000000000000000", "hex");
const TRAILER = Buffer.from("ffff", "hex");
const CHUNK_BYTES = 256 * 1024;

/** Encodes rows in COPY's binary format (PostgreSQL's manual, "COPY", "Binary Format"). */
export class CopyBuffer {
  private buffer = Buffer.allocUnsafe(64 * 1024);
  private view = new DataView(this.buffer.buffer, this.buffer.byteOffset);
  length = 0;

  private room(bytes: number) {
    if (this.length + bytes <= this.buffer.length) return;
    const grown = Buffer.allocUnsafe(Math.max(this.buffer.length * 2, this.length + bytes));
    this.buffer.copy(grown, 0, 0, this.length);
    this.buffer = grown;
    this.view = new DataView(grown.buffer, grown.byteOffset);
  }

  row(columns: number) {
    this.room(2);
    this.view.setInt16(this.length, columns);
    this.length += 2;
  }

  int4(value: number) {
    this.room(8);
    this.view.setInt32(this.length, 4);
    this.view.setInt32(this.length + 4, value);
    this.length += 8;
  }

  int8(value: number) {
    this.room(12);
    this.view.setInt32(this.length, 8);
    this.view.setInt32(this.length + 4, Math.floor(value / 2 ** 32));
    this.view.setUint32(this.length + 8, value >>> 0);
    this.length += 12;
  }

  float8(value: number) {
    this.room(12);
    this.view.setInt32(this.length, 8);
    this.view.setFloat64(this.length + 4, value);
    this.length += 12;
  }

  /** The eight bytes of `values[index]` as a byte string, whatever NaN it may be. */
  floatBytes(words: Uint32Array, index: number) {
    this.room(12);
    this.view.setInt32(this.length, 8);
    this.view.setUint32(this.length + 4, words[2 * index + 1]);
    this.view.setUint32(this.length + 8, words[2 * index]);
    this.length += 12;
  }

  bytes(value: Uint8Array) {
    this.room(4 + value.length);
    this.view.setInt32(this.length, value.length);
    this.buffer.set(value, this.length + 4);
    this.length += 4 + value.length;
  }

  rows(): Buffer {
    return this.buffer.subarray(0, this.length);
  }
}

/** Copies encoded rows into a table. @param into table with its columns, as in `t (a, b)` */
export async function copyRows(client: pg.ClientBase, into: string, rows: CopyBuffer) {
  const all = rows.rows();
  function* chunks() {
    yield HEADER;
    for (let at = 0; at < all.length; at += CHUNK_BYTES) yield all.subarray(at, at + CHUNK_BYTES);
    yield TRAILER;
  }
  const sink = client.query(copyFrom(`COPY ${into} FROM STDIN (FORMAT binary)`));
  await pipeline(Readable.from(chunks(), { objectMode: false }), sink);
}
