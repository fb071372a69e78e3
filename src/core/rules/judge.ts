import type { Samples } from "../series/samples";
import { type AlertLife, observe } from "./alertLife";
import type { Condition } from "./condition";

export interface JudgedEvent {
  kind: "building" | "raised" | "cleared";
  at: number;
  value: number;
}

/** A life that changed while observations were taken, and what happened to it on the way. */
export interface JudgedLife {
  life: AlertLife;
  events: JudgedEvent[];
  /** True for the life that was open before; at most one, and then the first. */
  continued: boolean;
  /** True when it broke off before it was raised. Only a continued life is reported so; others never existed. */
  dropped: boolean;
}

/**
 * Takes observations in time order, starting from the open life if there is one. Every life that ended or is still
 * open comes back, the open one last.
 */
export function judge(
  open: AlertLife | null,
  observations: Samples,
  condition: Condition,
  maxGapMs: number,
): JudgedLife[] {
  const judged: JudgedLife[] = [];
  let current: JudgedLife | null = open && { life: open, events: [], continued: true, dropped: false };
  if (current) judged.push(current);
  for (let i = 0; i < observations.times.length; i++) {
    const at = observations.times[i];
    const value = observations.values[i];
    const { life, event } = observe(current?.life ?? null, at, value, condition, maxGapMs);
    if (event === "dropped" && current) {
      if (current.continued) current.dropped = true;
      else judged.pop();
      current = null;
      continue;
    }
    if (!life) continue;
    if (current) current.life = life;
    else {
      current = { life, events: [], continued: false, dropped: false };
      judged.push(current);
    }
    if (event && event !== "dropped") current.events.push({ kind: event, at, value });
    if (event === "cleared") current = null;
  }
  return judged;
}

/**
 * The alerts that a condition would have raised over past observations, by the very steps that are taken live.
 * One that is still open has no `clearedAt`; what was only building is left out.
 */
export function backtest(observations: Samples, condition: Condition, maxGapMs: number): AlertLife[] {
  return judge(null, observations, condition, maxGapMs)
    .map(({ life }) => life)
    .filter((life) => life.phase !== "building");
}
