import { type Condition, signalOf } from "./condition";

/**
 * One raise-to-clear life of a condition on one subject, from the first sign to the end:
 *
 *     building ──held long enough──▶ raised ──a person──▶ acknowledged
 *        │                             └──────over long enough──────┴──▶ cleared
 *        └──broke off before──▶ dropped (nobody was told)
 */
export type Phase = "building" | "raised" | "acknowledged" | "cleared";

export interface AlertLife {
  phase: Phase;
  /** When the condition began to be met without a break. */
  since: number;
  raisedAt: number | null;
  valueAtRaise: number | null;
  /** When it began to be over without a break; null while it is not. */
  clearingSince: number | null;
  clearedAt: number | null;
  lastTime: number;
  lastValue: number;
  /** The value farthest on the wrong side so far. */
  worstValue: number;
}

export type LifeEvent = "building" | "raised" | "cleared" | "dropped";

export interface Step {
  /** Null when there is nothing to remember: calm, or dropped before it was raised. */
  life: AlertLife | null;
  event: LifeEvent | null;
}

/**
 * Takes one observation. Pure and in time order: the same observations give the same lives whether they are taken
 * one by one as they arrive, after a restart, or all at once over history.
 *
 * @param life the open life, or null when calm
 * @param maxGapMs a hole longer than this between observations breaks a hold off: nobody knows what was in it
 */
export function observe(
  life: AlertLife | null,
  time: number,
  value: number,
  condition: Condition,
  maxGapMs: number,
): Step {
  if (Number.isNaN(value) || (life && time <= life.lastTime)) return { life, event: null };
  const signal = signalOf(value, condition);
  if (!life) return signal === "met" ? begin(time, value, condition) : { life: null, event: null };

  const broken = time - life.lastTime > maxGapMs;
  const upward = condition.comparison.startsWith(">");
  const next: AlertLife = {
    ...life,
    lastTime: time,
    lastValue: value,
    worstValue: upward ? Math.max(life.worstValue, value) : Math.min(life.worstValue, value),
  };
  if (life.phase === "building") {
    if (signal !== "met") return { life: null, event: "dropped" };
    // After a hole the hold starts anew; there is no saying that it held throughout.
    if (broken) return { life: { ...next, since: time, worstValue: value }, event: null };
    return raiseIfHeld(next, condition);
  }
  if (signal !== "over") return { life: { ...next, clearingSince: null }, event: null };
  next.clearingSince = life.clearingSince === null || broken ? time : life.clearingSince;
  if (time - next.clearingSince < condition.clearHoldMs) return { life: next, event: null };
  return { life: { ...next, phase: "cleared", clearedAt: time }, event: "cleared" };
}

function begin(time: number, value: number, condition: Condition): Step {
  const life: AlertLife = {
    phase: "building",
    since: time,
    raisedAt: null,
    valueAtRaise: null,
    clearingSince: null,
    clearedAt: null,
    lastTime: time,
    lastValue: value,
    worstValue: value,
  };
  const step = raiseIfHeld(life, condition);
  return step.event ? step : { life, event: "building" };
}

function raiseIfHeld(life: AlertLife, condition: Condition): Step {
  if (life.lastTime - life.since < condition.holdMs) return { life, event: null };
  return {
    life: { ...life, phase: "raised", raisedAt: life.lastTime, valueAtRaise: life.lastValue },
    event: "raised",
  };
}
