import { useQuery } from "@tanstack/react-query";
import type { GroupNode } from "@/server/services/groups";
import type { SystemState, SystemSummary } from "@/server/services/systems";
import { api } from "../api";
import { useSystems } from "../data";

export interface TreeRow {
  /** Value of the URL's `scope`. */
  scope: string;
  title: string;
  depth: number;
  state: SystemState;
  /** Systems inside, for a group. */
  count: number | null;
}

const ORDER: SystemState[] = ["now", "today", "week", "dark", "calm"];

/** The worst state of many: what a group's lantern shows. */
export function worstState(systems: SystemSummary[]): SystemState {
  return ORDER.find((state) => systems.some((system) => system.state === state)) ?? "calm";
}

export function useGroups() {
  return useQuery({
    queryKey: ["groups"],
    queryFn: () => api<{ groups: GroupNode[] }>("GET", "/api/v1/groups").then((answer) => answer.groups),
    refetchInterval: 60_000,
  });
}

/** Groups and systems as rows in the order of the rail; systems without a group come last. */
export function treeRows(groups: GroupNode[], systems: SystemSummary[]): TreeRow[] {
  const rows: TreeRow[] = [];
  const inside = (name: string): SystemSummary[] => [
    ...systems.filter(
      (system) =>
        system.group === name ||
        Object.entries(groups.find((group) => group.name === name)?.selector ?? { "": "" }).every(
          ([key, value]) => system.labels[key] === value,
        ),
    ),
    ...groups.filter((group) => group.parent === name).flatMap((group) => inside(group.name)),
  ];
  const addSystem = (system: SystemSummary, depth: number) => {
    // Below the system it was found in, a part goes by its own name.
    const short = system.parent === null ? system.name : system.name.replace(`${system.parent}.`, "");
    rows.push({ scope: system.name, title: short, depth, state: system.state, count: null });
    for (const part of systems.filter((one) => one.parent === system.name && one.group === system.group))
      addSystem(part, depth + 1);
  };
  const placedBelow = (system: SystemSummary) =>
    system.parent !== null && systems.some((one) => one.name === system.parent && one.group === system.group);
  const addGroup = (group: GroupNode, depth: number) => {
    const all = inside(group.name);
    rows.push({
      scope: `group:${group.name}`,
      title: group.title,
      depth,
      state: worstState(all),
      count: all.length,
    });
    for (const system of systems.filter(
      (candidate) => candidate.group === group.name && !placedBelow(candidate),
    ))
      addSystem(system, depth + 1);
    for (const child of groups.filter((candidate) => candidate.parent === group.name))
      addGroup(child, depth + 1);
  };
  for (const group of groups.filter((candidate) => candidate.parent === null)) addGroup(group, 0);
  for (const system of systems.filter((candidate) => candidate.group === null && !placedBelow(candidate)))
    addSystem(system, 0);
  return rows;
}

export function useTreeRows(): TreeRow[] {
  const { data: groups = [] } = useGroups();
  const { data: systems = [] } = useSystems();
  return treeRows(groups, systems);
}
