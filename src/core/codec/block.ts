import type { Samples } from "../series/samples";
import { ByteReader, ByteWriter } from "./bytes";
import { canPack, readIntegers, writeIntegers } from "./integers";
import { readValues, writeValues } from "./values";

/**
 * A run of one series' samples in few bytes; what comes back is bit for bit what went in.
 *
 * Format, version 1: the version, the number of samples (varint), the times as packed integers, the values.
 * Times are whole milliseconds, strictly ascending.
 */
const VERSION = 1;

/** @throws RangeError when the times are no whole milliseconds or lie more than 2^49 ms apart */
export function encodeSamples({ times, values }: Samples): Uint8Array {
  if (!canPack(times) || !times.every(Number.isInteger))
    throw new RangeError("times are whole milliseconds, less than 17,000 years apart");
  const out = new ByteWriter();
  out.byte(VERSION);
  out.varint(times.length);
  writeIntegers(out, times);
  writeValues(out, aligned(values));
  return out.finish();
}

/** @throws RangeError when this is no block, or a cut one */
export function decodeSamples(bytes: Uint8Array): Samples {
  const source = new ByteReader(bytes);
  if (source.byte() !== VERSION) throw new RangeError("a block of an unknown version");
  const count = source.varint();
  if (count > bytes.length * 512) throw new RangeError("a block that claims more samples than it can hold");
  return { times: readIntegers(source, count), values: readValues(source, count) };
}

/** Views may start anywhere; the 32-bit words beneath are read from an own buffer then. */
function aligned(values: Float64Array): Float64Array {
  return values.byteOffset % 8 === 0 ? values : values.slice();
}
