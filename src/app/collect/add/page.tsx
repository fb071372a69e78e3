import { listGroups } from "@/server/services/groups";
import { AddSystem } from "@/ui/collect/AddSystem";

export const metadata = { title: "Add a system" };

export default async function Add() {
  return <AddSystem groups={await listGroups()} />;
}
