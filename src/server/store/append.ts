import { decodeSamples, encodeSamples } from "../../core/codec/block";
import { groupBy } from "../../core/groupBy";
import { ordered } from "../../core/series/merge";
import type { Samples } from "../../core/series/samples";
import { pool } from "../db/connection";
import { CopyBuffer, copyRows } from "./binary";
import { createTable, recentPartitionDdl, slotOf } from "./layout";

export interface SeriesSamples extends Samples {
  seriesId: number;
}

/** More samples than this waiting to be written: the asker has to come again later. */
const MOST_WAITING = 2_000_000;

/** The store takes no more for now; nothing of the refused batch was kept. */
export class StoreBusyError extends Error {}

interface Waiting {
  batch: readonly SeriesSamples[];
  samples: number;
  resolve: () => void;
  reject: (error: unknown) => void;
}

let waiting: Waiting[] = [];
let waitingSamples = 0;
let flushing: Promise<void> | null = null;

/**
 * Appends samples. When the promise resolves they are durable. A sample that is there already (same series and time)
 * stays as it is, so the same batch may be sent as often as one likes.
 *
 * What is asked for while a write is under way goes into the next write together: one commit for many sources.
 * Times are whole milliseconds.
 *
 * @throws StoreBusyError when too much is waiting already
 */
export function append(batch: readonly SeriesSamples[]): Promise<void> {
  const samples = batch.reduce((sum, { times }) => sum + times.length, 0);
  if (samples === 0) return Promise.resolve();
  if (waitingSamples > 0 && waitingSamples + samples > MOST_WAITING)
    return Promise.reject(new StoreBusyError(`${waitingSamples} samples are waiting to be written`));
  return new Promise((resolve, reject) => {
    waiting.push({ batch, samples, resolve, reject });
    waitingSamples += samples;
    flushing ??= flushAll();
  });
}

async function flushAll() {
  // A turn of the event loop, so that those who come in the same instant share the first write too.
  await Promise.resolve();
  while (waiting.length > 0) {
    const taken = waiting;
    waiting = [];
    try {
      const slot = slotOf(Date.now());
      await write(
        slot,
        encodeRecent(
          slot,
          taken.flatMap(({ batch }) => batch),
        ),
      );
      for (const { resolve } of taken) resolve();
    } catch (error) {
      for (const { reject } of taken) reject(error);
    } finally {
      for (const { samples } of taken) waitingSamples -= samples;
    }
  }
  // In the same turn as the last look at what waits: later, and a batch could come in between and wait for ever.
  flushing = null;
}

async function write(slot: number, rows: CopyBuffer) {
  for (let attempt = 0; ; attempt++) {
    const client = await pool().connect();
    let failure: unknown;
    try {
      await copyRows(client, 'recent ("first", "last", series_group, slot, data)', rows);
      return;
    } catch (error) {
      failure = error;
      // The first of the hour finds no partition for its rows, and so does one whose hour was sealed in this moment.
      if ((error as { code?: string }).code !== "23514" || attempt >= 3) throw error;
      await createTable(client, recentPartitionDdl(slot));
    } finally {
      client.release(isBroken(failure));
    }
  }
}

/** A connection that failed in the middle of COPY is not used again, unless the server itself answered. */
function isBroken(failure: unknown): boolean {
  return failure !== undefined && !/^[0-9A-Z]{5}$/.test((failure as { code?: string }).code ?? "");
}

/** Series with neighbouring ids share the rows of `recent`: they come from one source and arrive together. */
const GROUP = 8;
const SINGLE = 0;
const RUN = 1;

export function groupOf(seriesId: number): number {
  return Math.floor(seriesId / GROUP);
}

/**
 * Rows of `recent`: what arrived of up to eight neighbouring series. `data` is one entry after the other, as they
 * came: place in the group, then either a time and a value, or the length of an encoded run and the run.
 */
function encodeRecent(slot: number, batch: readonly SeriesSamples[]): CopyBuffer {
  const rows = new CopyBuffer();
  const groups = groupBy(
    batch.filter(({ times }) => times.length > 0),
    ({ seriesId }) => groupOf(seriesId),
  );
  for (const [group, members] of groups) {
    let first = Number.POSITIVE_INFINITY;
    let last = Number.NEGATIVE_INFINITY;
    let size = 0;
    const runs: (Uint8Array | null)[] = [];
    for (const { times, values } of members) {
      const sorted = times.length > 1 ? ordered(times, values) : null;
      const own = sorted?.times ?? times;
      if (!Number.isInteger(own[0])) throw new RangeError("times are whole milliseconds");
      if (own[0] < first) first = own[0];
      if (own[own.length - 1] > last) last = own[own.length - 1];
      const run = sorted ? encodeSamples(sorted) : null;
      runs.push(run);
      size += run ? 6 + run.length : 18;
    }
    const data = Buffer.allocUnsafe(size);
    let at = 0;
    members.forEach(({ seriesId, times, values }, i) => {
      const run = runs[i];
      data[at] = seriesId - group * GROUP;
      data[at + 1] = run ? RUN : SINGLE;
      if (run) {
        data.writeUInt32BE(run.length, at + 2);
        data.set(run, at + 6);
        at += 6 + run.length;
        return;
      }
      data.writeDoubleBE(times[0], at + 2);
      if (Number.isNaN(values[0])) {
        // As words: a NaN keeps its payload.
        const words = new Uint32Array(values.slice(0, 1).buffer);
        data.writeUInt32BE(words[1], at + 10);
        data.writeUInt32BE(words[0], at + 14);
      } else data.writeDoubleBE(values[0], at + 10);
      at += 18;
    });
    rows.row(5);
    rows.int8(first);
    rows.int8(last);
    rows.int4(group);
    rows.int4(slot);
    rows.bytes(data);
  }
  return rows;
}

/** SQL that puts rows of `recent` together for `decodeRecent`, in the order in which they came. */
export const RECENT_DATA = "string_agg(data, ''::bytea ORDER BY slot, recent.ctid)";

/** The runs of each wanted series of a group. Neighbouring single samples come as one run as long as they ascend. */
export function decodeRecent(
  group: number,
  data: Buffer,
  wanted: (seriesId: number) => boolean,
): Map<number, Samples[]> {
  const runs = new Map<number, Samples[]>();
  const open = new Map<number, { times: number[]; words: number[] }>();
  const close = (id: number) => {
    const single = open.get(id);
    if (!single) return;
    open.delete(id);
    const { times, words } = single;
    add(id, { times: Float64Array.from(times), values: new Float64Array(Uint32Array.from(words).buffer) });
  };
  const add = (id: number, run: Samples) => {
    const own = runs.get(id);
    if (own) own.push(run);
    else runs.set(id, [run]);
  };
  let at = 0;
  while (at < data.length) {
    const id = group * GROUP + data[at];
    if (data[at + 1] === RUN) {
      const length = data.readUInt32BE(at + 2);
      if (wanted(id)) {
        close(id);
        add(id, decodeSamples(data.subarray(at + 6, at + 6 + length)));
      }
      at += 6 + length;
      continue;
    }
    if (wanted(id)) {
      const time = data.readDoubleBE(at + 2);
      let single = open.get(id);
      if (single && time <= single.times[single.times.length - 1]) {
        close(id);
        single = undefined;
      }
      if (!single) {
        single = { times: [], words: [] };
        open.set(id, single);
      }
      single.times.push(time);
      single.words.push(data.readUInt32BE(at + 14), data.readUInt32BE(at + 10));
    }
    at += 18;
  }
  for (const id of [...open.keys()]) close(id);
  return runs;
}

/** Waits for what is being written, so that a process can end. */
export async function appended() {
  await flushing;
}
