/** What collecting costs, so that it can be shown before it is decided. */

const DAY_MS = 86_400_000;

export interface Cost {
  samplesADay: number;
  bytesADay: number;
}

/**
 * Samples and bytes a day of some series at one interval.
 * @param bytesASample as measured in this store; before anything is measured, two bytes are a fair guess
 */
export function costOf(series: number, intervalMs: number, bytesASample: number | null): Cost {
  const samplesADay = (series * DAY_MS) / intervalMs;
  return { samplesADay, bytesADay: samplesADay * (bytesASample ?? 2) };
}
