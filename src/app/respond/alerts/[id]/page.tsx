import { notFound } from "next/navigation";
import { readAlert } from "@/server/services/alerts";
import { ServiceError } from "@/server/services/serviceError";
import { AlertPage } from "@/ui/respond/AlertPage";

export const metadata = { title: "Alert" };

export default async function Alert({ params }: { params: Promise<{ id: string }> }) {
  const id = Number((await params).id);
  if (!Number.isInteger(id) || id < 1 || id > 2 ** 31 - 1) notFound();
  const alert = await readAlert(id).catch((error) => {
    if (error instanceof ServiceError) notFound();
    throw error;
  });
  return <AlertPage key={id} initial={alert} />;
}
