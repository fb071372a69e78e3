import { describe, expect, it } from "vitest";
import type { SystemSummary } from "@/server/services/systems";
import { tellingLabels } from "../charts/lines";
import { nextOf } from "../walk";
import { filtered, labelChoices, labelNames, sectioned } from "./fleetGroups";

const system = (name: string, more: Partial<SystemSummary> = {}) =>
  ({
    id: 1,
    name,
    kit: "host",
    kitTitle: "Host",
    group: "hosts",
    labels: {},
    state: "calm",
    ...more,
  }) as SystemSummary;

const FLEET = [
  system("pier-01"),
  system("pier-02", { state: "dark", labels: { quay: "north", rack: "2" } }),
  system("berth-db", {
    kit: "postgresql",
    kitTitle: "PostgreSQL server",
    group: "databases",
    state: "now",
    labels: { quay: "north" },
  }),
  system("stray", { group: null, labels: { quay: "south" } }),
];
const none = { kit: "", state: "", label: "" };
const names = (systems: SystemSummary[]) => systems.map((one) => one.name);

describe("the fleet", () => {
  it("is narrowed by technology, state and label, each alone or together", () => {
    expect(names(filtered(FLEET, none)).length).toBe(4);
    expect(names(filtered(FLEET, { ...none, kit: "postgresql" }))).toEqual(["berth-db"]);
    expect(names(filtered(FLEET, { ...none, state: "dark" }))).toEqual(["pier-02"]);
    expect(names(filtered(FLEET, { ...none, label: "quay=north", kit: "host" }))).toEqual(["pier-02"]);
  });
  it("is grouped by group, technology, state (the most urgent first) or any label", () => {
    const titles = (by: string) =>
      sectioned(FLEET, by, [{ name: "hosts", title: "Hosts", parent: null, selector: null }]).map(
        ({ title, members }) => [title, members.length],
      );
    expect(titles("group")).toEqual([
      ["Hosts", 2],
      ["databases", 1],
      ["Without a group", 1],
    ]);
    expect(titles("kit")).toEqual([
      ["Host", 3],
      ["PostgreSQL server", 1],
    ]);
    expect(titles("state")).toEqual([
      ["act now", 1],
      ["dark", 1],
      ["calm", 2],
    ]);
    expect(titles("label:quay")).toEqual([
      ["without quay", 1],
      ["north", 2],
      ["south", 1],
    ]);
  });
  it("offers the labels that there are", () => {
    expect(labelNames(FLEET)).toEqual(["quay", "rack"]);
    expect(labelChoices(FLEET)).toEqual(["quay=north", "quay=south", "rack=2"]);
  });
});

describe("walking by arrow keys", () => {
  // Three in the first row, two in the second.
  const boxes = [0, 100, 200]
    .map((left) => ({ left, top: 0, width: 90 }))
    .concat([0, 100].map((left) => ({ left, top: 50, width: 90 })));
  it("goes along rows and to the nearest in the next", () => {
    expect(nextOf("ArrowRight", 0, boxes)).toBe(1);
    expect(nextOf("ArrowLeft", 0, boxes)).toBe(0);
    expect(nextOf("ArrowDown", 1, boxes)).toBe(4);
    expect(nextOf("ArrowDown", 2, boxes)).toBe(4);
    expect(nextOf("ArrowUp", 3, boxes)).toBe(0);
    expect(nextOf("ArrowUp", 0, boxes)).toBe(0);
    expect([nextOf("Home", 3, boxes), nextOf("End", 0, boxes)]).toEqual([0, 4]);
    expect(nextOf("a", 0, boxes)).toBeNull();
  });
});

describe("names of lines", () => {
  const lines = (...labels: Record<string, string>[]) => labels.map((one) => ({ line: "a", labels: one }));
  it("are the fewest labels that tell them apart", () => {
    expect(tellingLabels(lines({ system: "x", pod: "a" }, { system: "x", pod: "b" }))).toEqual(["pod"]);
    expect(tellingLabels(lines({ system: "x" }))).toEqual([]);
    // A pod names itself, whatever it runs in.
    expect(
      tellingLabels(
        lines({ system: "s", pod: "s-1" }, { system: "s", pod: "s-2" }, { system: "t", pod: "t-1" }),
      ),
    ).toEqual(["pod"]);
    expect(
      tellingLabels(
        lines({ wait: "IO", event: "read" }, { wait: "IO", event: "write" }, { wait: "Lock", event: "read" }),
      ),
    ).toEqual(["wait", "event"]);
  });
});
