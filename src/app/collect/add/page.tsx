import { readDraft } from "@/server/services/drafts";
import { listGroups } from "@/server/services/groups";
import { AddSystem } from "@/ui/collect/AddSystem";

export const metadata = { title: "Add a system" };
export const dynamic = "force-dynamic";

export default async function Add() {
  const [groups, draft] = await Promise.all([listGroups(), readDraft("add-system")]);
  return <AddSystem groups={groups} initial={draft.value} />;
}
