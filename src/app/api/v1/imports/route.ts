import { failure, handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listImports, uploadImport } from "@/server/services/imports";

export const GET = handle(OPERATIONS.listImports, async () => ({ imports: await listImports() }));

/** The file itself is the body; its name and the zone of its local times are in the query. */
export async function POST(request: Request) {
  const query = new URL(request.url).searchParams;
  try {
    const made = await uploadImport(query.get("name") ?? "upload", request.body, query.get("zone") ?? "UTC");
    return Response.json(made, { status: 201 });
  } catch (error) {
    return failure(error, "uploadImport");
  }
}
