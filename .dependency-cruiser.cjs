/** Which way the doors between the rooms open; see docs/architecture.md. */
const room = (name, from, to, comment) => ({ name, severity: "error", comment, from, to });

module.exports = {
  forbidden: [
    room("no-cycles", {}, { circular: true }, "a circle of imports hides who depends on whom"),
    room(
      "core-is-pure",
      { path: "^src/core", pathNot: "\\.test\\.ts$" },
      { path: "^(src/(server|app|ui|cli)|standins|tests|bench)" },
      "core knows only core and small maths or parsing packages",
    ),
    room(
      "core-has-no-io",
      { path: "^src/core", pathNot: "\\.test\\.ts$" },
      { dependencyTypes: ["core"] },
      "core runs in the browser too: no Node API",
    ),
    room(
      "core-packages",
      { path: "^src/core", pathNot: "\\.test\\.ts$" },
      {
        path: "node_modules",
        pathNot: "node_modules/(zod|papaparse|@types/papaparse|re2js|protobufjs|luxon|@types/luxon|mathjs)/",
      },
      "core takes parsing packages only",
    ),
    room(
      "server-below-pages",
      { path: "^src/server" },
      { path: "^(src/(app|ui|cli)|standins|tests|bench)" },
      "server knows core only",
    ),
    room(
      "pages-ask-services",
      { path: "^src/app" },
      { path: "^src/server/(db|store|collect|jobs|notify)" },
      "services are the only door from pages to the rest of the server",
    ),
    room(
      "ui-takes-types-only",
      { path: "^src/ui" },
      { path: "^(src/server|standins)", dependencyTypesNot: ["type-only"] },
      "ui runs in the browser: of the server it knows types",
    ),
    room(
      "standins-know-core",
      { path: "^standins" },
      { path: "^src/(server|app|ui|cli)" },
      "the simulated world knows nothing of Barn Lamp but its formats",
    ),
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    tsPreCompilationDeps: "specify",
    tsConfig: { fileName: "tsconfig.json" },
    enhancedResolveOptions: {
      exportsFields: ["exports"],
      conditionNames: ["import", "node", "default", "types"],
    },
  },
};
