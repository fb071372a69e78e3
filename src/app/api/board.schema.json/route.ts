import { z } from "zod";
import { boardDefinition } from "@/core/boards/board";

/** The JSON Schema of what a board is made of: for import, export and whoever writes boards by a program. */
export function GET() {
  return Response.json(
    { title: "Barn Lamp board", ...z.toJSONSchema(boardDefinition, { io: "input", unrepresentable: "any" }) },
    { headers: { "content-type": "application/schema+json" } },
  );
}
