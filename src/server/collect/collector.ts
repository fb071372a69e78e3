import type { Problem } from "../../core/formats/openmetrics";
import type { MetricInfo, SeriesIdentity } from "../store/series";

/** What a collector needs to know of a source. */
export interface Target {
  /** Null for a source that is only being tested. */
  sourceId: number | null;
  address: string;
  /** In clear; a collector never logs it. */
  credential: string | null;
  timeoutMs: number;
}

export interface CollectedSample extends SeriesIdentity {
  /** Epoch milliseconds; null for the moment of collection. */
  time: number | null;
  value: number;
}

export interface Collected {
  metrics: MetricInfo[];
  samples: CollectedSample[];
  /** What could not be read; the rest was. */
  problems: Problem[];
}

/** One kind of source. A collector keeps nothing that matters: any runner may do the next run. */
export interface Collector {
  /** Says what is wrong with an address before anything is sent, or null. */
  addressFault(address: string): string | null;
  /** @throws CollectError */
  collect(target: Target): Promise<Collected>;
}

export type CollectErrorKind =
  | "address"
  | "refused"
  | "unknown-host"
  | "unreachable"
  | "tls"
  | "timeout"
  | "closed"
  | "status"
  | "content"
  | "too-large"
  | "credential"
  | "rights"
  | "database"
  | "failed";

/** Why nothing could be collected, in a sentence that a person can act on. */
export class CollectError extends Error {
  constructor(
    readonly kind: CollectErrorKind,
    message: string,
  ) {
    super(message);
  }
}

/** Limits that hold for every kind of source. */
export const LIMITS = {
  bodyBytes: 16 * 2 ** 20,
  samples: 20_000,
  seriesASource: 5000,
  labelCharacters: 1000,
  problems: 50,
};
