import { describe, expect, it } from "vitest";
import { meanWait, timeToDrain } from "./drain";
import { queuesOf } from "./management";

describe("time to drain and mean wait", () => {
  it("depth over the difference of the rates, and not draining when that is not positive", () => {
    expect(timeToDrain(600, 5, 15)).toBe(60);
    expect(timeToDrain(600, 15, 15)).toBeNull();
    expect(timeToDrain(600, 16, 15)).toBeNull();
    expect(timeToDrain(0, 16, 15)).toBe(0);
  });
  it("Little's law: 32 customers in the shop, 40 an hour come: 0.8 h (a worked example from memory, no source)", () => {
    expect(meanWait(32, 40)).toBe(0.8);
    expect(meanWait(32, 0)).toBeNull();
  });
  // M/M/1 (Kleinrock, Queueing Systems, volume 1, 1975): L = ρ / (1 − ρ), W = 1 / (μ − λ); the law must join the two.
  it.each([
    [2, 3],
    [9, 10],
    [0.5, 4],
  ])("agrees with M/M/1 at λ = %d, μ = %d", (arrivals, service) => {
    const rho = arrivals / service;
    expect(meanWait(rho / (1 - rho), arrivals)).toBeCloseTo(1 / (service - arrivals), 12);
  });
});

describe("queues of a broker", () => {
  const queue = (name: string, part: object = {}) => ({ name, vhost: "/", messages_ready: 3, ...part });
  it("are paired with their dead-letter queue: by key, by binding, by the only binding", () => {
    const { queues } = queuesOf(
      [
        queue("a", { arguments: { "x-dead-letter-exchange": "", "x-dead-letter-routing-key": "a.dead" } }),
        queue("b", { arguments: { "x-dead-letter-exchange": "dlx" } }),
        queue("c", {
          arguments: { "x-dead-letter-exchange": "only", "x-dead-letter-routing-key": "whatever" },
        }),
        queue("d", { arguments: { "x-dead-letter-exchange": "", "x-dead-letter-routing-key": "nowhere" } }),
        queue("a.dead"),
        queue("b.dead"),
      ],
      [
        { source: "dlx", vhost: "/", destination: "b.dead", destination_type: "queue", routing_key: "b" },
        { source: "dlx", vhost: "/", destination: "a.dead", destination_type: "queue", routing_key: "z" },
        { source: "only", vhost: "/", destination: "b.dead", destination_type: "queue", routing_key: "x" },
      ],
    );
    expect(queues.map((one) => one.deadLetterQueue)).toEqual([
      "a.dead",
      "b.dead",
      "b.dead",
      null,
      null,
      null,
    ]);
  });
  it("keep what can be read, and name what cannot", () => {
    const { queues, problems } = queuesOf([queue("a"), { vhost: "/" }], null);
    expect(queues).toHaveLength(1);
    expect(queues[0]).toMatchObject({ ready: 3, published: null, consumers: 0 });
    expect(problems[0]).toMatch(/queue 2: name/);
    expect(queuesOf({ error: "not_authorised" }, []).problems).toHaveLength(1);
  });
});
