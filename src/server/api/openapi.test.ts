import fs from "node:fs";
import { describe, expect, it } from "vitest";
import { openApiDocument } from "./openapi";
import { OPERATIONS } from "./operations";

const operations = Object.values(OPERATIONS);

describe("the OpenAPI document", () => {
  it("holds every operation once, under an id of its own", () => {
    const { paths } = openApiDocument();
    const count = Object.values(paths).reduce((sum, methods) => sum + Object.keys(methods).length, 0);
    expect(count).toBe(operations.length);
    expect(new Set(operations.map((operation) => operation.id)).size).toBe(operations.length);
  });
  it("names every variable of a path as a parameter", () => {
    const { paths } = openApiDocument() as {
      paths: Record<string, Record<string, { parameters?: { name: string; in: string }[] }>>;
    };
    for (const [path, methods] of Object.entries(paths))
      for (const variable of path.match(/(?<=\{)\w+/g) ?? [])
        for (const operation of Object.values(methods))
          expect(operation.parameters).toContainEqual(
            expect.objectContaining({ name: variable, in: "path" }),
          );
  });
  it("describes only what is routed, and everything that is", () => {
    for (const { path, method } of operations) {
      const folder = `src/app${path.replace(/\{(\w+)\}/g, "[$1]")}`;
      const source = fs.readFileSync(`${folder}/route.ts`, "utf8");
      expect(source, `${method} ${path}`).toMatch(
        new RegExp(`export (const|async function|function) ${method.toUpperCase()}\\b`),
      );
    }
  });
  it("is plain JSON that keeps its word about RFC 9457", () => {
    const document = JSON.parse(JSON.stringify(openApiDocument()));
    for (const methods of Object.values<Record<string, { responses: Record<string, unknown> }>>(
      document.paths,
    ))
      for (const { responses } of Object.values(methods))
        expect(JSON.stringify(responses.default)).toContain("application/problem+json");
  });
});
