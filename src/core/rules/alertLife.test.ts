import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type AlertLife, observe } from "./alertLife";
import { type Condition, silenceCondition } from "./condition";
import { backtest, judge } from "./judge";

const S = 1000;
const hot: Condition = { comparison: ">", value: 90, clearValue: 80, holdMs: 30 * S, clearHoldMs: 20 * S };
const GAP = 35 * S;

/** Observations every ten seconds. */
const every10 = (values: number[]) => ({
  times: Float64Array.from(values, (_, i) => i * 10 * S),
  values: Float64Array.from(values),
});
const run = (values: number[], condition = hot) => judge(null, every10(values), condition, GAP);
const events = (values: number[], condition = hot) =>
  run(values, condition).flatMap(({ events: list }) => list.map(({ kind, at }) => [kind, at / S]));

describe("an alert's life", () => {
  it("is raised once the condition held long enough, and cleared once it was over long enough", () => {
    const values = [50, 95, 95, 95, 95, 95, 85, 70, 70, 70, 50];
    expect(events(values)).toEqual([
      ["building", 10],
      ["raised", 40],
      ["cleared", 90],
    ]);
    const [{ life }] = run(values);
    expect(life).toMatchObject({
      since: 10 * S,
      raisedAt: 40 * S,
      valueAtRaise: 95,
      clearedAt: 90 * S,
      worstValue: 95,
    });
  });
  it("leaves no trace when it breaks off before it was raised", () => {
    expect(run([95, 95, 95, 85, 95, 95])).toHaveLength(1);
    expect(events([95, 95, 95, 85, 95, 95])).toEqual([["building", 40]]);
  });
  it("does not flap between the two values", () => {
    expect(events([95, 95, 95, 95, 85, 95, 85, 89, 91, 81])).toEqual([
      ["building", 0],
      ["raised", 30],
    ]);
  });
  it("starts its clearing anew when the value comes back", () => {
    expect(events([95, 95, 95, 95, 70, 85, 70, 70, 70])).toEqual([
      ["building", 0],
      ["raised", 30],
      ["cleared", 80],
    ]);
  });
  it("is raised at once without a hold", () => {
    expect(events([95, 10], { ...hot, holdMs: 0, clearHoldMs: 0 })).toEqual([
      ["raised", 0],
      ["cleared", 10],
    ]);
  });
  it("does not count a hole as held, nor as over", () => {
    const times = Float64Array.of(0, 10 * S, 200 * S, 210 * S, 220 * S, 230 * S);
    const held = judge(null, { times, values: times.map(() => 95) }, hot, GAP);
    expect(held[0].life).toMatchObject({ phase: "raised", since: 200 * S, raisedAt: 230 * S });
    const raised = run([95, 95, 95, 95]).at(-1)!.life;
    const over = judge(
      raised,
      { times: Float64Array.of(40 * S, 300 * S), values: Float64Array.of(70, 70) },
      hot,
      GAP,
    );
    expect(over[0].life).toMatchObject({ phase: "raised", clearingSince: 300 * S });
  });
  it("stays acknowledged until it clears", () => {
    const raised = run([95, 95, 95, 95]).at(-1)!.life;
    const { life } = observe({ ...raised, phase: "acknowledged" }, 40 * S, 99, hot, GAP);
    expect(life).toMatchObject({ phase: "acknowledged", worstValue: 99 });
  });
  it("ignores NaN and what is not newer", () => {
    const raised = run([95, 95, 95, 95]).at(-1)!.life;
    expect(observe(raised, 40 * S, Number.NaN, hot, GAP)).toEqual({ life: raised, event: null });
    expect(observe(raised, 30 * S, 1, hot, GAP)).toEqual({ life: raised, event: null });
  });
  it("judges downward as upward", () => {
    const low: Condition = { comparison: "<=", value: 5, clearValue: 10, holdMs: 10 * S, clearHoldMs: 0 };
    expect(events([20, 5, 3, 8, 11], low)).toEqual([
      ["building", 10],
      ["raised", 20],
      ["cleared", 40],
    ]);
    expect(run([20, 5, 3, 8, 11], low)[0].life.worstValue).toBe(3);
  });
  it("takes silence as a condition like any other", () => {
    const silent = silenceCondition(60_000);
    expect(events([5, 30, 61, 71, 2], silent)).toEqual([
      ["raised", 20],
      ["cleared", 40],
    ]);
  });
});

const level = fc.array(fc.integer({ min: 60, max: 100 }), { minLength: 1, maxLength: 80 });

describe("judging", () => {
  it("comes to the same whether all at once or restarted anywhere in between", () => {
    fc.assert(
      fc.property(level, fc.nat(), (values, cut) => {
        const whole = run(values);
        const at = cut % (values.length + 1);
        const { times, values: all } = every10(values);
        const first = judge(null, { times: times.slice(0, at), values: all.slice(0, at) }, hot, GAP);
        // What a database would bring back: the open life, without the past.
        const open = first.at(-1)?.life.phase === "cleared" ? null : (first.at(-1)?.life ?? null);
        const second = judge(
          open && structuredClone(open),
          { times: times.slice(at), values: all.slice(at) },
          hot,
          GAP,
        );
        const told = (list: ReturnType<typeof judge>) =>
          list.flatMap(({ events: e }) => e).filter((e) => e.kind !== "building");
        expect([...told(first), ...told(second)]).toEqual(told(whole));
      }),
    );
  });
  it("raises and clears strictly in turn, never before the hold", () => {
    fc.assert(
      fc.property(level, (values) => {
        const lives = backtest(every10(values), hot, GAP);
        let before = Number.NEGATIVE_INFINITY;
        for (const life of lives) {
          expect(life.since).toBeGreaterThan(before);
          expect(life.raisedAt! - life.since).toBeGreaterThanOrEqual(hot.holdMs);
          if (life.clearedAt !== null)
            expect(life.clearedAt - life.clearingSince!).toBeGreaterThanOrEqual(hot.clearHoldMs);
          before = life.clearedAt ?? Number.POSITIVE_INFINITY;
        }
      }),
    );
  });
  it("reports a continued life that broke off as dropped", () => {
    const building = run([95, 95]).at(-1)!.life as AlertLife;
    const [judged] = judge(
      building,
      { times: Float64Array.of(20 * S), values: Float64Array.of(10) },
      hot,
      GAP,
    );
    expect(judged).toMatchObject({ continued: true, dropped: true });
  });
});
