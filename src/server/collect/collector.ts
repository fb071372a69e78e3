import type { Problem } from "../../core/formats/openmetrics";
import type { SourceOptions } from "../db/schema";
import type { MetricInfo, SeriesIdentity } from "../store/series";

/** What a collector needs to know of a source. */
export interface Target {
  /** Null for a source that is only being tested. */
  sourceId: number | null;
  address: string;
  /** In clear; a collector never logs it. */
  credential: string | null;
  timeoutMs: number;
  intervalMs: number;
  options: SourceOptions;
  /** What the run before left behind; null at first, and after a change of the source. */
  state: unknown;
}

export interface CollectedSample extends SeriesIdentity {
  /** Epoch milliseconds; null for the moment of collection. */
  time: number | null;
  value: number;
  /** Key of the part it belongs to; left out for the system itself. */
  part?: string;
}

/** Something found inside a system. */
export interface FoundPart {
  /** Stable name within the source. */
  key: string;
  /** What it is called where it lives: `queue`, `workload`, `database`. */
  kind: string;
  /** Kit of the system that it becomes; null where it stays a part of its system. */
  kit: string | null;
  /** Name for that system, without the name of the system it is in. */
  name: string;
  labels: Record<string, string>;
  /** Name of a group below the group of its system, such as a namespace. */
  group?: string;
}

/** A session tree that was seen blocking. */
export interface SeenBlocking {
  rootPid: number;
  /** When the oldest of its waiters began to wait. */
  startedAt: number;
  waiters: number;
  tree: unknown;
}

export interface Collected {
  metrics: MetricInfo[];
  samples: CollectedSample[];
  /** What could not be read; the rest was. */
  problems: Problem[];
  /** All parts there are now; left out where a source has none. */
  parts?: FoundPart[];
  /** Something was done at the source, or in one of its parts: a setting changed, a server restarted. */
  marks?: { kind: string; title: string; part?: string }[];
  /** What the next run wants to know. */
  state?: unknown;
  /** The source's clock minus ours. */
  clockSkewMs?: number | null;
  statements?: { queryId: string; text: string }[];
  blockings?: SeenBlocking[];
  /** Client sessions as they are now; literals taken out of their queries. */
  sessions?: SeenSession[];
}

export interface SeenSession {
  pid: number;
  database: string | null;
  user: string | null;
  application: string | null;
  state: string | null;
  wait: string | null;
  query: string | null;
  /** Age of what it is doing, in seconds; null where it does nothing. */
  seconds: number | null;
  transactionSeconds: number | null;
  blockedBy: number[];
}

/** One kind of source. A collector keeps nothing that matters: any runner may do the next run. */
export interface Collector {
  /** Says what is wrong with an address before anything is sent, or null. */
  addressFault(address: string): string | null;
  /** @throws CollectError */
  collect(target: Target): Promise<Collected>;
  /** Ends what it keeps open to sources. */
  close?(): Promise<void>;
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
  | "query"
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
  samples: 50_000,
  seriesASource: 5000,
  labelCharacters: 1000,
  statementCharacters: 10_000,
  problems: 50,
};
