import { notFound } from "next/navigation";
import { listContacts } from "@/server/services/contacts";
import { listGroups } from "@/server/services/groups";
import { readRule } from "@/server/services/rules";
import { ServiceError } from "@/server/services/serviceError";
import { listMetrics } from "@/server/services/systems";
import { RuleEditor } from "@/ui/tune/RuleEditor";

export const metadata = { title: "Rule" };

export default async function Rule({ params }: { params: Promise<{ id: string }> }) {
  const id = Number((await params).id);
  const rule = await readRule(id).catch((error) => {
    if (error instanceof ServiceError) notFound();
    throw error;
  });
  const [metrics, groups, contacts] = await Promise.all([listMetrics(""), listGroups(), listContacts()]);
  return (
    <RuleEditor
      key={id}
      rule={rule}
      metric=""
      labels={{}}
      scope=""
      metrics={metrics}
      groups={groups}
      contacts={contacts}
    />
  );
}
