import fs from "node:fs";
import { z } from "zod";
import { lastRestart, type SeriesSpec, type StandInSpec, valueAt } from "./world/series";

/** The faults that can be let loose on the demo. */
export const WEATHER_KINDS = {
  "cpu-storm": "All processors of a host are taken",
  "queue-stall": "Consumers of a queue stop; messages pile up",
  "endpoint-down": "A system's endpoint refuses connections",
  "slow-endpoint": "A system's endpoint takes 30 s to answer",
  malformed: "A system's endpoint mixes broken lines into its metrics",
  "mail-down": "The mail server refuses connections",
} as const;
export type WeatherKind = keyof typeof WEATHER_KINDS;

export const weatherRequest = z.strictObject({
  kind: z.enum(Object.keys(WEATHER_KINDS) as [WeatherKind, ...WeatherKind[]]),
  /** A system's name; `signal-box/QUEUE` for a queue; `mail` for the mail server. */
  target: z.string().max(100),
});

export interface Weather extends z.infer<typeof weatherRequest> {
  id: number;
  since: number;
  until: number | null;
}

const CPU_STORM_SHARE = 0.97;
const STALL_MESSAGES_A_SECOND = 60;
const KEPT = 200;

/** Faults under way and past ones; the past ones stay in the counters they moved. Kept in a file over restarts. */
export class WeatherStation {
  private all: Weather[] = [];

  constructor(private readonly file: string) {
    if (fs.existsSync(file)) this.all = JSON.parse(fs.readFileSync(file, "utf8"));
  }

  active(): Weather[] {
    return this.all.filter((weather) => weather.until === null);
  }

  isActive(kind: WeatherKind, target: string): boolean {
    return this.active().some((weather) => weather.kind === kind && weather.target === target);
  }

  start(kind: WeatherKind, target: string): Weather {
    const running = this.active().find((weather) => weather.kind === kind && weather.target === target);
    if (running) return running;
    const id = 1 + Math.max(0, ...this.all.map((weather) => weather.id));
    const weather: Weather = { id, kind, target, since: Date.now(), until: null };
    this.all = [...this.all, weather].slice(-KEPT);
    this.save();
    return weather;
  }

  end(id: number): boolean {
    const weather = this.active().find((candidate) => candidate.id === id);
    if (!weather) return false;
    weather.until = Date.now();
    this.save();
    return true;
  }

  /** What the endpoint says of a series at `t`, with the weather there is. */
  value(system: StandInSpec, spec: SeriesSpec, t: number): number {
    const calm = valueAt(spec, t);
    if (this.isActive("cpu-storm", system.name)) {
      if (spec.metric.family === "host_cpu_utilization_ratio")
        return CPU_STORM_SHARE + 0.01 * Math.sin(t / 20_000);
      if (spec.metric.family === "host_load1") return calm + 14;
    }
    if (spec.metric.family === "host_cpu_seconds" && spec.labels.mode === "user")
      return calm + 4 * this.secondsOf("cpu-storm", system.name, t);
    if (spec.metric.family === "broker_queue_messages" && spec.labels.state === "ready") {
      const stall = this.active().find(
        (weather) =>
          weather.kind === "queue-stall" && weather.target === `${system.name}/${spec.labels.queue}`,
      );
      if (stall) return calm + Math.round(((t - stall.since) / 1000) * STALL_MESSAGES_A_SECOND);
    }
    // What piles up came in: the counter keeps it when the weather is over.
    if (spec.metric.family === "broker_queue_published" && spec.labels.queue)
      return (
        calm +
        STALL_MESSAGES_A_SECOND *
          Math.floor(this.secondsOf("queue-stall", `${system.name}/${spec.labels.queue}`, t))
      );
    return calm;
  }

  /** Seconds of a kind of weather on a target since the counters there were restarted. */
  private secondsOf(kind: WeatherKind, target: string, t: number): number {
    const from = lastRestart(t);
    let seconds = 0;
    for (const weather of this.all)
      if (weather.kind === kind && weather.target === target)
        seconds += Math.max(0, Math.min(weather.until ?? t, t) - Math.max(weather.since, from)) / 1000;
    return seconds;
  }

  private save() {
    fs.writeFileSync(`${this.file}.new`, JSON.stringify(this.all));
    fs.renameSync(`${this.file}.new`, this.file);
  }
}
