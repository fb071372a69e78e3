import { problem } from "@/server/api/problem";
import { callStandIns } from "@/server/services/demo";

const ALLOWED = /^(mail|weather|weather\/\d{1,9})$/;

/** Passes the demo's own calls on to the stand-ins. Outside the demo there is nothing here. */
async function pass(
  request: Request,
  { params }: { params: Promise<{ path: string[] }> },
): Promise<Response> {
  const path = (await params).path.join("/");
  if (!ALLOWED.test(path)) return problem(404, "Not found", "there is nothing at this address");
  const body = request.method === "POST" ? await request.text() : undefined;
  const answer = await callStandIns(request.method, path, body);
  if (!answer) return problem(404, "Not found", "this is not the demo, or its stand-ins are away");
  return Response.json(answer.body, { status: answer.status, headers: { "cache-control": "no-store" } });
}

export { pass as DELETE, pass as GET, pass as POST };
