import { failure, handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { addGcLog, listGcLogs } from "@/server/services/gcLogs";

export const GET = handle(OPERATIONS.listGcLogs, async ({ params }) => ({
  logs: await listGcLogs(params.name),
}));

/** The log itself is the body. */
export async function POST(request: Request, { params }: { params: Promise<{ name: string }> }) {
  try {
    const name = new URL(request.url).searchParams.get("name") ?? "gc.log";
    return Response.json(await addGcLog((await params).name, name, await request.text()), { status: 201 });
  } catch (error) {
    return failure(error, "addGcLog");
  }
}
