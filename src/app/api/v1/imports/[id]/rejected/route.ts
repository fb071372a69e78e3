import fs from "node:fs";
import { failure } from "@/server/api/handle";
import { readImport, rejectedFileOf } from "@/server/services/imports";

/** The rows that were not taken, each with the reason. */
export async function GET(_: Request, { params }: { params: Promise<{ id: string }> }) {
  try {
    const { id } = await readImport(Number((await params).id) || 0);
    return new Response(fs.readFileSync(rejectedFileOf(id)), {
      headers: {
        "content-type": "text/csv; charset=utf-8",
        "content-disposition": `attachment; filename="rejected-${id}.csv"`,
      },
    });
  } catch (error) {
    return failure(error, "rejectedRows");
  }
}
