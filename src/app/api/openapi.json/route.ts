import { openApiDocument } from "@/server/api/openapi";

export function GET() {
  return Response.json(openApiDocument());
}
