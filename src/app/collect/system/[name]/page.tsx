import { notFound } from "next/navigation";
import { listGroups } from "@/server/services/groups";
import { listParts } from "@/server/services/sources";
import { listDependencies, listSystems } from "@/server/services/systems";
import { SourcePage } from "@/ui/collect/SourcePage";

export const metadata = { title: "A system's sources" };

export default async function System({ params }: { params: Promise<{ name: string }> }) {
  const name = decodeURIComponent((await params).name);
  const [systems, groups, parts, dependencies] = await Promise.all([
    listSystems(name),
    listGroups(),
    listParts(name),
    listDependencies(name),
  ]);
  const system = systems.find((one) => one.name === name);
  if (!system) notFound();
  return <SourcePage key={name} system={system} groups={groups} inside={{ parts, dependencies }} />;
}
