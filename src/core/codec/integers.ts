import type { ByteReader, ByteWriter } from "./bytes";

/**
 * Whole numbers in few bits: offsets from the first one, divided by what all of them have in common, predicted from
 * their neighbours, and what the prediction missed packed in runs of 32 with the width that the run needs.
 *
 * Prediction by difference, and by difference of differences as in Gorilla (Pelkonen et al., VLDB 2015, section 4.1.1);
 * frame of reference and bit packing as in ALP (Afroozeh et al., SIGMOD 2024). The common divisor is ours: times come
 * in whole seconds, memory in whole pages.
 */

const RUN = 32;
const WIDTH_BITS = 6;
/** Offsets stay below this, so that differences of differences, folded to unsigned, are exact in a double. */
export const MAX_SPREAD = 2 ** 49;

type Order = 0 | 1 | 2;

/** Whether `writeIntegers` can take these: whole, and not further apart than 2^49. */
export function canPack(values: Float64Array): boolean {
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  for (const value of values) {
    if (value < low) low = value;
    if (value > high) high = value;
  }
  return (
    values.length === 0 || (high - low < MAX_SPREAD && Math.abs(low) < 2 ** 52 && Math.abs(high) < 2 ** 52)
  );
}

export function writeIntegers(out: ByteWriter, values: Float64Array) {
  if (values.length === 0) return;
  const first = values[0];
  const divisor = commonDivisor(values);
  const offsets = new Float64Array(values.length);
  for (let i = 0; i < values.length; i++) offsets[i] = (values[i] - first) / divisor;

  let best = residuals(offsets, 0);
  for (const order of [1, 2] as const) {
    const other = residuals(offsets, order);
    if (other.cost < best.cost) best = other;
  }
  out.byte(best.order);
  out.varint(fold(first));
  out.varint(divisor);
  out.varint(fold(best.base));
  for (let start = 0, run = 0; start < values.length; start += RUN, run++) {
    const width = best.widths[run];
    out.bits(width, WIDTH_BITS);
    if (width === 0) continue;
    const end = Math.min(start + RUN, values.length);
    for (let i = start; i < end; i++) {
      const residual = best.values[i];
      if (width > 32) {
        out.bits(Math.floor(residual / 2 ** 32), width - 32);
        out.bits(residual >>> 0, 32);
      } else out.bits(residual, width);
    }
  }
  out.align();
}

export function readIntegers(source: ByteReader, count: number): Float64Array {
  const values = new Float64Array(count);
  if (count === 0) return values;
  const order = source.byte() as Order;
  const first = unfold(source.varint());
  const divisor = source.varint();
  const base = unfold(source.varint());
  let previous = 0;
  let slope = order === 2 ? base : 0;
  for (let start = 0; start < count; start += RUN) {
    const width = source.bits(WIDTH_BITS);
    const end = Math.min(start + RUN, count);
    for (let i = start; i < end; i++) {
      let residual = 0;
      if (width > 32) residual = source.bits(width - 32) * 2 ** 32 + source.bits(32);
      else if (width > 0) residual = source.bits(width);
      if (order === 0) previous = residual + base;
      else if (i > 0) {
        if (order === 1) previous += unfold(residual);
        else {
          slope += unfold(residual);
          previous += slope;
        }
      }
      values[i] = first + previous * divisor;
    }
  }
  source.align();
  return values;
}

interface Residuals {
  order: Order;
  base: number;
  values: Float64Array;
  widths: Uint8Array;
  /** Bits in all. */
  cost: number;
}

function residuals(offsets: Float64Array, order: Order): Residuals {
  const { length } = offsets;
  const values = new Float64Array(length);
  let base = 0;
  if (order === 0) {
    base = offsets[0];
    for (const offset of offsets) if (offset < base) base = offset;
    for (let i = 0; i < length; i++) values[i] = offsets[i] - base;
  } else {
    let slope = 0;
    if (order === 2 && length > 1) slope = base = offsets[1];
    for (let i = 1; i < length; i++) {
      const difference = offsets[i] - offsets[i - 1];
      values[i] = fold(difference - slope);
      if (order === 2) slope = difference;
    }
  }
  const widths = new Uint8Array(Math.ceil(length / RUN));
  let cost = 0;
  for (let start = 0, run = 0; start < length; start += RUN, run++) {
    const end = Math.min(start + RUN, length);
    let largest = 0;
    for (let i = start; i < end; i++) if (values[i] > largest) largest = values[i];
    widths[run] = bitLength(largest);
    cost += WIDTH_BITS + widths[run] * (end - start);
  }
  return { order, base, values, widths, cost };
}

function bitLength(value: number): number {
  return value >= 2 ** 32 ? 64 - Math.clz32(Math.floor(value / 2 ** 32)) : 32 - Math.clz32(value);
}

/** Signed to unsigned, small numbers staying small: 0, -1, 1, -2 become 0, 1, 2, 3. */
function fold(value: number): number {
  return value >= 0 ? 2 * value : -2 * value - 1;
}

function unfold(value: number): number {
  return value % 2 === 0 ? value / 2 : -(value + 1) / 2;
}

function commonDivisor(values: Float64Array): number {
  const first = values[0];
  let divisor = 0;
  for (let i = 1; i < values.length; i++) {
    let a = Math.abs(values[i] - first);
    while (a !== 0) {
      const rest = divisor % a;
      divisor = a;
      a = rest;
    }
    if (divisor === 1) return 1;
  }
  return divisor || 1;
}
