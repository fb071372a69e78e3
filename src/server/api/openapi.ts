import { z } from "zod";
import { OPERATIONS, type Operation } from "./operations";

const PROBLEM = {
  type: "object",
  description: "RFC 9457 problem document",
  properties: {
    type: { type: "string" },
    title: { type: "string" },
    status: { type: "integer" },
    detail: { type: "string" },
    errors: {
      type: "array",
      items: { type: "object", properties: { field: { type: "string" }, detail: { type: "string" } } },
    },
  },
};

/** The OpenAPI 3.1 document, made from the schemas that the handlers validate with. */
export function openApiDocument() {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const operation of Object.values(OPERATIONS) as Operation[]) {
    paths[operation.path] ??= {};
    paths[operation.path][operation.method] = entry(operation);
  }
  return {
    openapi: "3.1.0",
    info: {
      title: "Barn Lamp",
      version: "1",
      description: "Times go in as RFC 3339 and come out as epoch milliseconds.",
    },
    paths,
    components: { schemas: { Problem: PROBLEM } },
  };
}

function entry(operation: Operation) {
  const parameters = [...parametersOf(operation.params, "path"), ...parametersOf(operation.query, "query")];
  return {
    operationId: operation.id,
    summary: operation.summary,
    ...(parameters.length > 0 ? { parameters } : {}),
    ...(operation.body
      ? {
          requestBody: {
            required: true,
            content: { "application/json": { schema: schema(operation.body, "input") } },
          },
        }
      : {}),
    responses: {
      [operation.status]: operation.response
        ? {
            description: "Done",
            content: { "application/json": { schema: schema(operation.response, "output") } },
          }
        : { description: "Done" },
      default: {
        description: "Refused or failed",
        content: { "application/problem+json": { schema: { $ref: "#/components/schemas/Problem" } } },
      },
    },
  };
}

function parametersOf(type: z.ZodType | undefined, place: "path" | "query") {
  if (!type) return [];
  const { properties = {}, required = [] } = schema(type, "input") as {
    properties?: Record<string, { description?: string }>;
    required?: string[];
  };
  return Object.entries(properties).map(([name, { description, ...rest }]) => ({
    name,
    in: place,
    required: place === "path" || required.includes(name),
    ...(description ? { description } : {}),
    schema: rest,
  }));
}

function schema(type: z.ZodType, io: "input" | "output") {
  const { $schema: _, ...rest } = z.toJSONSchema(type, { io, unrepresentable: "any" });
  return rest;
}
