import type { ByteReader, ByteWriter } from "./bytes";
import { canPack, readIntegers, writeIntegers } from "./integers";

/**
 * Float64 values, bit for bit. Most metrics are decimals with few places or whole numbers: these are scaled to
 * integers and packed, with the few that do not fit written beside (ALP: Afroozeh, Kuffo, Boncz, SIGMOD 2024). What
 * is no decimal is written as the difference in bits to its predecessor (Gorilla: Pelkonen et al., VLDB 2015,
 * section 4.1.2; leading zeros in steps as in Chimp: Liakos et al., VLDB 2022).
 */

const CONSTANT = 0;
const DECIMAL = 1;
const XOR = 2;
const MAX_PLACES = 14;
const POWERS = Array.from({ length: MAX_PLACES + 1 }, (_, e) => 10 ** e);
const PROBES = 48;
/** With more misfits than this share the decimal form does not pay. */
const MISFIT_SHARE = 1 / 10;
const LEADING = [0, 8, 12, 16, 18, 20, 22, 24];
/** Step of leading zeros, by the count itself. */
const LEADING_STEP = Uint8Array.from({ length: 65 }, (_, zeros) => {
  let step = 0;
  while (step < 7 && LEADING[step + 1] <= zeros) step++;
  return step;
});

export function writeValues(out: ByteWriter, values: Float64Array) {
  if (values.length === 0) return;
  const words = new Uint32Array(values.buffer, values.byteOffset, values.length * 2);
  if (isConstant(words)) {
    out.byte(CONSTANT);
    out.words(words[1], words[0]);
    return;
  }
  const places = decimalPlaces(values);
  if (places !== null) {
    const { integers, misfits } = scale(values, POWERS[places]);
    if (misfits.length <= values.length * MISFIT_SHARE && canPack(integers)) {
      out.byte(DECIMAL);
      out.byte(places);
      out.varint(misfits.length);
      for (const i of misfits) {
        out.varint(i);
        out.words(words[2 * i + 1], words[2 * i]);
      }
      writeIntegers(out, integers);
      return;
    }
  }
  out.byte(XOR);
  writeXor(out, words);
}

export function readValues(source: ByteReader, count: number): Float64Array {
  const values = new Float64Array(count);
  if (count === 0) return values;
  const words = new Uint32Array(values.buffer);
  switch (source.byte()) {
    case CONSTANT: {
      const [high, low] = source.words();
      for (let i = 0; i < count; i++) {
        words[2 * i + 1] = high;
        words[2 * i] = low;
      }
      return values;
    }
    case DECIMAL: {
      const power = POWERS[source.byte()];
      const misfits: [number, number, number][] = [];
      for (let left = source.varint(); left > 0; left--) misfits.push([source.varint(), ...source.words()]);
      const integers = readIntegers(source, count);
      if (power === 1) values.set(integers);
      else for (let i = 0; i < count; i++) values[i] = integers[i] / power;
      for (const [i, high, low] of misfits) {
        words[2 * i + 1] = high;
        words[2 * i] = low;
      }
      return values;
    }
    case XOR:
      readXor(source, words);
      return values;
    default:
      throw new RangeError("a block with an unknown form of values");
  }
}

function isConstant(words: Uint32Array): boolean {
  for (let i = 2; i < words.length; i++) if (words[i] !== words[i % 2]) return false;
  return true;
}

/** `value` is the float nearest to `integer / power`, so the division gives back its very bits; -0 does not fit. */
function fits(value: number, integer: number, power: number): boolean {
  return integer / power === value && Math.abs(integer) < 2 ** 52 && (value !== 0 || 1 / value > 0);
}

/** How many decimal places most of the values have, from a few of them; null when they are no decimals. */
export function decimalPlaces(values: Float64Array): number | null {
  const step = Math.max(1, Math.floor(values.length / PROBES));
  const histogram = new Uint32Array(MAX_PLACES + 1);
  let probed = 0;
  let fitting = 0;
  for (let i = 0; i < values.length; i += step) {
    const value = values[i];
    probed++;
    for (let places = 0; places <= MAX_PLACES; places++) {
      if (!fits(value, Math.round(value * POWERS[places]), POWERS[places])) continue;
      histogram[places]++;
      fitting++;
      break;
    }
  }
  if (fitting < probed * (1 - MISFIT_SHARE)) return null;
  let covered = 0;
  for (let places = 0; places <= MAX_PLACES; places++) {
    covered += histogram[places];
    if (covered >= fitting * 0.96) return places;
  }
  return null;
}

function scale(values: Float64Array, power: number) {
  const integers = new Float64Array(values.length);
  const misfits: number[] = [];
  let last = 0;
  for (let i = 0; i < values.length; i++) {
    const integer = Math.round(values[i] * power);
    if (fits(values[i], integer, power)) last = integer;
    else misfits.push(i);
    integers[i] = last;
  }
  // Misfits at the start repeat nothing yet: take the first that fits, which packs well.
  const lead = misfits.findIndex((at, i) => at !== i);
  const start = lead === -1 ? misfits.length : lead;
  if (start < integers.length) integers.fill(integers[start], 0, start);
  return { integers, misfits };
}

function writeXor(out: ByteWriter, words: Uint32Array) {
  let previousHigh = words[1];
  let previousLow = words[0];
  out.words(previousHigh, previousLow);
  let leading = -1;
  let meaningful = 0;
  for (let i = 2; i < words.length; i += 2) {
    const high = (words[i + 1] ^ previousHigh) >>> 0;
    const low = (words[i] ^ previousLow) >>> 0;
    previousHigh = words[i + 1];
    previousLow = words[i];
    if (high === 0 && low === 0) {
      out.bits(0, 1);
      continue;
    }
    const step = LEADING_STEP[high !== 0 ? Math.clz32(high) : 32 + Math.clz32(low)];
    const lead = LEADING[step];
    const trailing = low !== 0 ? 31 - Math.clz32(low & -low) : 63 - Math.clz32(high & -high);
    const length = 64 - lead - trailing;
    // The window before is used again where it holds all bits and is not much too wide.
    if (
      leading >= 0 &&
      lead >= leading &&
      64 - leading - meaningful <= trailing &&
      meaningful - length < 10
    ) {
      out.bits(0b10, 2);
    } else {
      leading = lead;
      meaningful = length;
      out.bits(0b11, 2);
      out.bits(step, 3);
      out.bits(length - 1, 6);
    }
    writeWindow(out, high, low, 64 - leading - meaningful, meaningful);
  }
  out.align();
}

function writeWindow(out: ByteWriter, high: number, low: number, shift: number, length: number) {
  if (length <= 32) {
    const value =
      shift >= 32 ? high >>> (shift - 32) : shift === 0 ? low : (high << (32 - shift)) | (low >>> shift);
    out.bits(value >>> 0, length);
    return;
  }
  // Longer than a word: the upper part lies in the high word alone.
  out.bits(shift === 0 ? high : high >>> shift, length - 32);
  out.bits(shift === 0 ? low : ((high << (32 - shift)) | (low >>> shift)) >>> 0, 32);
}

function readXor(source: ByteReader, words: Uint32Array) {
  let [high, low] = source.words();
  words[1] = high;
  words[0] = low;
  let leading = 0;
  let meaningful = 0;
  for (let i = 2; i < words.length; i += 2) {
    if (source.bits(1) === 1) {
      if (source.bits(1) === 1) {
        leading = LEADING[source.bits(3)];
        meaningful = source.bits(6) + 1;
      }
      const shift = 64 - leading - meaningful;
      const upper = meaningful > 32 ? source.bits(meaningful - 32) : 0;
      const lower = source.bits(Math.min(32, meaningful));
      if (shift === 0) {
        high ^= upper;
        low ^= lower;
      } else if (shift < 32) {
        high ^= (upper << shift) | (lower >>> (32 - shift));
        low ^= lower << shift;
      } else high ^= lower << (shift - 32);
    }
    words[i + 1] = high;
    words[i] = low;
    high = words[i + 1];
    low = words[i];
  }
  source.align();
}
