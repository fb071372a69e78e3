import { notFound } from "next/navigation";
import { isDemo } from "@/server/services/demo";
import { DemoWorld } from "@/ui/demo/DemoWorld";

export const metadata = { title: "Demo world" };

export default function Demo() {
  if (!isDemo()) notFound();
  return <DemoWorld />;
}
