import { groupBy } from "@/core/groupBy";
import type { GroupNode } from "@/server/services/groups";
import type { SystemState, SystemSummary } from "@/server/services/systems";

export interface FleetFilter {
  /** Kit id; empty: any. */
  kit: string;
  /** A state; empty: any. */
  state: string;
  /** `NAME=VALUE` of a label; empty: any. */
  label: string;
}

export const STATE_WORDS: Record<SystemState, string> = {
  now: "act now",
  today: "act today",
  week: "act this week",
  dark: "dark",
  calm: "calm",
};
const STATES = Object.keys(STATE_WORDS) as SystemState[];

export function filtered(systems: readonly SystemSummary[], filter: FleetFilter): SystemSummary[] {
  const [name, value] = splitLabel(filter.label);
  return systems.filter(
    (system) =>
      (filter.kit === "" || system.kit === filter.kit) &&
      (filter.state === "" || system.state === filter.state) &&
      (name === "" || system.labels[name] === value),
  );
}

function splitLabel(word: string): [name: string, value: string] {
  const at = word.indexOf("=");
  return at === -1 ? ["", ""] : [word.slice(0, at), word.slice(at + 1)];
}

/** Every label that systems carry, as `NAME=VALUE`, in order. */
export function labelChoices(systems: readonly SystemSummary[]): string[] {
  return [
    ...new Set(
      systems.flatMap((system) => Object.entries(system.labels).map(([name, value]) => `${name}=${value}`)),
    ),
  ].sort();
}

/** Names of labels by which systems can be grouped. */
export function labelNames(systems: readonly SystemSummary[]): string[] {
  return [...new Set(systems.flatMap((system) => Object.keys(system.labels)))].sort();
}

/**
 * Systems in sections.
 * @param by `group`, `kit`, `state`, or `label:NAME`
 */
export function sectioned(
  systems: readonly SystemSummary[],
  by: string,
  groups: readonly GroupNode[],
): { title: string; members: SystemSummary[] }[] {
  const titles = new Map(groups.map((group) => [group.name, group.title]));
  const titleOf = (system: SystemSummary): string => {
    if (by === "kit") return system.kitTitle;
    if (by === "state") return STATE_WORDS[system.state];
    if (by.startsWith("label:")) return system.labels[by.slice(6)] ?? `without ${by.slice(6)}`;
    return system.group ? (titles.get(system.group) ?? system.group) : "Without a group";
  };
  const sections = [...groupBy([...systems], titleOf)].map(([title, members]) => ({ title, members }));
  if (by === "state")
    sections.sort((a, b) => STATES.indexOf(a.members[0].state) - STATES.indexOf(b.members[0].state));
  return sections;
}
