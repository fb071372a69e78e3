import { listContacts } from "@/server/services/contacts";
import { listGroups } from "@/server/services/groups";
import { listMetrics } from "@/server/services/systems";
import { RuleEditor } from "@/ui/tune/RuleEditor";

export const metadata = { title: "New rule" };

export default async function NewRule({
  searchParams,
}: {
  searchParams: Promise<{ scope?: string; metric?: string; labels?: string }>;
}) {
  const { scope = "", metric = "", labels = "" } = await searchParams;
  const [metrics, groups, contacts] = await Promise.all([listMetrics(""), listGroups(), listContacts()]);
  return (
    <RuleEditor
      rule={null}
      metric={metric}
      labels={Object.fromEntries(new URLSearchParams(labels))}
      scope={scope}
      metrics={metrics}
      groups={groups}
      contacts={contacts}
    />
  );
}
