import { describe, expect, it } from "vitest";
import { blockingTrees } from "./blocking";
import { nameStatements, type StatementCounters, statementDifferences, withoutLiterals } from "./statements";

const counters = (key: string, calls: number, seconds: number): [string, StatementCounters] => [
  key,
  { key, calls, seconds, rows: calls * 2, blocksRead: 0, blocksHit: calls, tempBlocks: 0 },
];
const snapshot = (...rows: [string, StatementCounters][]) => new Map(rows);

describe("differences of statement statistics", () => {
  it("count what each did, and leave out who did nothing", () => {
    const before = snapshot(counters("a", 10, 1), counters("b", 10, 1), counters("c", 5, 5));
    const now = snapshot(
      counters("a", 20, 2),
      counters("b", 11, 9),
      counters("c", 5, 5),
      counters("d", 4, 0.5),
    );
    const { differences, reset, evicted } = statementDifferences(before, now);
    expect(differences.map(({ key, calls, seconds }) => [key, calls, seconds])).toEqual([
      ["a", 10, 1],
      ["b", 1, 8],
      ["d", 4, 0.5],
    ]);
    expect([reset, evicted]).toEqual([false, 0]);
  });
  it("tell a reset from an eviction", () => {
    const before = snapshot(counters("a", 10, 1), counters("b", 10, 1), counters("c", 5, 5));
    expect(
      statementDifferences(before, snapshot(counters("a", 2, 0.1), counters("b", 1, 0.1))),
    ).toMatchObject({
      reset: true,
      evicted: 0,
    });
    const evicted = statementDifferences(before, snapshot(counters("a", 12, 1.5), counters("c", 6, 6)));
    expect(evicted).toMatchObject({ reset: false, evicted: 1 });
    // A query that was dropped and came back counts from zero, not backwards.
    const back = statementDifferences(
      before,
      snapshot(counters("a", 2, 0.25), counters("b", 11, 2), counters("c", 6, 6)),
    );
    expect(back.differences.find((one) => one.key === "a")?.seconds).toBe(0.25);
  });
  it("name the costliest, keep names, and lose nothing of the rest", () => {
    const difference = (key: string, seconds: number) => counters(key, 1, seconds)[1];
    const first = nameStatements([difference("a", 5), difference("b", 3), difference("c", 1)], {}, 2);
    expect(first.named.map((one) => one.key)).toEqual(["a", "b"]);
    expect(first.rest).toMatchObject({ key: "rest", calls: 1, seconds: 1 });
    // A little costlier once is not enough to take a name.
    const second = nameStatements(
      [difference("a", 5), difference("b", 3), difference("c", 4)],
      first.scores,
      2,
    );
    expect(second.named.map((one) => one.key)).toEqual(["a", "b"]);
    let { scores } = second;
    for (let i = 0; i < 20; i++)
      scores = nameStatements([difference("a", 5), difference("c", 4)], scores, 2).scores;
    expect(Object.keys(scores).sort()).toEqual(["a", "c"]);
  });
  it("texts lose their literals", () => {
    expect(
      withoutLiterals(
        "select * from berth where name = 'O''Hara' and id=42 -- secret\n and x = $1 /* y */ and z = 1.5e3",
      ),
    ).toBe("select * from berth where name = ? and id=? and x = $1 and z = ?");
    expect(withoutLiterals("select $$it's$$, E'a\\'b', 'never closed")).toBe("select ?, ?, ?");
  });
});

describe("blocking trees", () => {
  it("hang who waits below whom it waits for, the root waiting for nobody", () => {
    expect(
      blockingTrees([
        { pid: 2, blockedBy: [1] },
        { pid: 3, blockedBy: [2, 2] },
        { pid: 4, blockedBy: [1] },
      ]),
    ).toEqual([
      {
        pid: 1,
        waiting: [
          { pid: 2, waiting: [{ pid: 3, waiting: [] }] },
          { pid: 4, waiting: [] },
        ],
      },
    ]);
  });
  it("cut a circle instead of running round it for ever", () => {
    expect(
      blockingTrees([
        { pid: 7, blockedBy: [8] },
        { pid: 8, blockedBy: [7] },
      ]),
    ).toEqual([{ pid: 7, waiting: [{ pid: 8, waiting: [] }] }]);
  });
});
