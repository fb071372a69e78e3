import { isHoleBefore } from "./gaps";
import { type Samples, withoutNaN } from "./samples";

/** Fewer intervals than this under a rate's window make the rate unreliable (common practice, no source). */
export const RELIABLE_INTERVALS = 4;

/**
 * What a counter gained between two neighbouring samples. A counter only goes up; one that fell was restarted at
 * zero in between, so what it shows now is what it gained since.
 */
function gain(before: number, after: number): number {
  return after >= before ? after - before : after;
}

/**
 * Per-second rate of a counter at each of its samples, over the window `[t - windowMs, t]`: what the counter
 * gained between the first and the last sample in the window, divided by the time between those two samples.
 *
 * Only neighbours that both lie in the window count, so nothing is invented across a hole longer than the window.
 * A window that holds a single sample gives no rate and its time is left out. NaN samples are passed over.
 *
 * @param windowMs window length in milliseconds, above zero
 * @throws RangeError when `windowMs` is not a positive finite number
 */
export function rate(counter: Samples, windowMs: number): Samples {
  if (!(windowMs > 0 && Number.isFinite(windowMs)))
    throw new RangeError(`a rate's window is a positive number of milliseconds, not ${windowMs}`);
  const times: number[] = [];
  const values: number[] = [];
  // The window is a queue of sample times and of the gain that led to each of them.
  const queueTimes: number[] = [];
  const queueGains: number[] = [];
  let head = 0;
  let previous = Number.NaN;
  for (let i = 0; i < counter.times.length; i++) {
    const value = counter.values[i];
    if (Number.isNaN(value)) continue;
    const time = counter.times[i];
    queueTimes.push(time);
    queueGains.push(Number.isNaN(previous) ? 0 : gain(previous, value));
    previous = value;
    while (queueTimes[head] < time - windowMs) head++;
    const last = queueTimes.length - 1;
    if (last === head) continue;
    // Summed afresh rather than kept running: subtracting what leaves would pile up rounding errors.
    let gained = 0;
    for (let k = head + 1; k <= last; k++) gained += queueGains[k];
    times.push(time);
    values.push(gained / ((time - queueTimes[head]) / 1000));
  }
  return { times: Float64Array.from(times), values: Float64Array.from(values) };
}

/**
 * Per-second rate of a counter in buckets `[k * step, (k + 1) * step)` aligned to the epoch: the gains whose
 * later sample falls into the bucket, divided by the time those gains cover. Nothing is counted across a hole
 * (see `isHoleBefore`); a bucket without a gain is left out.
 *
 * @param intervalMs the interval at which the counter is collected
 */
export function bucketRate(counter: Samples, stepMs: number, intervalMs: number): Samples {
  const { times, values } = withoutNaN(counter);
  const outTimes: number[] = [];
  const outValues: number[] = [];
  let gained = 0;
  let covered = 0;
  let current = Number.NaN;
  const flush = () => {
    if (covered > 0) {
      outTimes.push(current * stepMs);
      outValues.push(gained / (covered / 1000));
    }
    gained = 0;
    covered = 0;
  };
  for (let i = 1; i < times.length; i++) {
    const bucket = Math.floor(times[i] / stepMs);
    if (bucket !== current) {
      flush();
      current = bucket;
    }
    if (isHoleBefore(times, i, intervalMs)) continue;
    gained += gain(values[i - 1], values[i]);
    covered += times[i] - times[i - 1];
  }
  flush();
  return { times: Float64Array.from(outTimes), values: Float64Array.from(outValues) };
}
