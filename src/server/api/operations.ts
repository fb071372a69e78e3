/** Every operation of the API: its schemas serve the handlers and the OpenAPI document alike. */
import { z } from "zod";
import { isAggregation } from "../../core/series/buckets";
import { parseRfc3339 } from "../../core/time/rfc3339";
import { ALERT_STATES, acknowledgement } from "../services/alerts";
import { boardSaving, newBoard, newTile } from "../services/boards";
import { drawInput } from "../services/charts";
import { newContact } from "../services/contacts";
import { DRAFT_KEYS, draftInput } from "../services/drafts";
import { newGroup } from "../services/groups";
import { importPlan } from "../services/imports";
import { retentionInput } from "../services/retention";
import { newRule, ruleChange } from "../services/rules";
import { mailSettingsInput } from "../services/settings";
import {
  bulkInterval,
  newSource,
  newSystem,
  partChange,
  sourceChange,
  sourceTest,
} from "../services/sources";
import { systemChange } from "../services/systems";
import { newToken } from "../services/tokens";

export interface Operation {
  id: string;
  method: "get" | "post" | "patch" | "put" | "delete";
  path: string;
  summary: string;
  status: 200 | 201 | 204;
  query?: z.ZodType;
  body?: z.ZodType;
  params?: z.ZodType;
  response?: z.ZodType;
}

const time = z
  .string()
  .describe("RFC 3339 date-time")
  .transform((text, context) => {
    const parsed = parseRfc3339(text);
    if (parsed !== null) return parsed;
    context.addIssue({ code: "custom", message: "write an RFC 3339 time, such as 2026-11-23T16:40:00Z" });
    return z.NEVER;
  });

const scope = z.string().max(200).default("").describe("empty, group:NAME, or a system's name");
const idParams = z.object({
  id: z.coerce
    .number()
    .int()
    .positive()
    .max(2 ** 31 - 1),
});
const nameParams = z.object({ name: z.string().max(120) });
const queryParams = nameParams.extend({
  query: z.string().regex(/^-?\d{1,19}$/, "a query is named by its number in pg_stat_statements"),
});
const number = z.union([z.number(), z.enum(["NaN", "+Inf", "-Inf"])]);
const levelCounts = z.object({ now: z.int(), today: z.int(), week: z.int() });
const anything = z.looseObject({});

const aggregation = z
  .string()
  .refine(isAggregation, "use mean, min, max, sum, last, count, or pN such as p95")
  .describe("mean, min, max, sum, last, count, or pN such as p95");

/** One operation; keeps the precise types of its schemas. */
function operation<const O extends Operation>(o: O): O {
  return o;
}

export const OPERATIONS = {
  listSystems: operation({
    id: "listSystems",
    method: "get",
    path: "/api/v1/systems",
    summary: "Systems with their state, alerts and last collection; briefly without their sources",
    status: 200,
    query: z.strictObject({ scope, brief: z.literal("true").optional() }),
    response: z.object({ systems: z.array(anything) }),
  }),
  addSystem: operation({
    id: "addSystem",
    method: "post",
    path: "/api/v1/systems",
    summary: "Add a system and start to collect from it",
    status: 201,
    body: newSystem,
    response: z.object({ id: z.int() }),
  }),
  changeSystem: operation({
    id: "changeSystem",
    method: "patch",
    path: "/api/v1/systems/{name}",
    summary: "Pause or resume collection, change its interval, or collect at once",
    status: 204,
    params: nameParams,
    body: systemChange,
  }),
  removeSystem: operation({
    id: "removeSystem",
    method: "delete",
    path: "/api/v1/systems/{name}",
    summary: "Remove a system with its source and series",
    status: 204,
    params: nameParams,
  }),
  addSource: operation({
    id: "addSource",
    method: "post",
    path: "/api/v1/systems/{name}/sources",
    summary: "Add a further source to a system",
    status: 201,
    params: nameParams,
    body: newSource,
    response: z.object({ id: z.int() }),
  }),
  changeSource: operation({
    id: "changeSource",
    method: "patch",
    path: "/api/v1/sources/{id}",
    summary: "Change a source: address, credential, interval, label rules, budget, discovery",
    status: 204,
    params: idParams,
    body: sourceChange,
  }),
  removeSource: operation({
    id: "removeSource",
    method: "delete",
    path: "/api/v1/sources/{id}",
    summary: "Remove a source; what it brought stays",
    status: 204,
    params: idParams,
  }),
  changeIntervals: operation({
    id: "changeIntervals",
    method: "post",
    path: "/api/v1/source-intervals",
    summary: "One interval for many sources",
    status: 200,
    body: bulkInterval,
    response: z.object({ changed: z.int() }),
  }),
  listParts: operation({
    id: "listParts",
    method: "get",
    path: "/api/v1/systems/{name}/parts",
    summary: "What was found inside a system: queues, workloads, databases",
    status: 200,
    params: nameParams,
    response: z.object({ parts: z.array(anything), dependencies: z.array(anything) }),
  }),
  changePart: operation({
    id: "changePart",
    method: "patch",
    path: "/api/v1/parts/{id}",
    summary: "Take a part in, or leave it out",
    status: 204,
    params: idParams,
    body: partChange,
  }),
  addGroup: operation({
    id: "addGroup",
    method: "post",
    path: "/api/v1/groups",
    summary: "Add a group, by hand or by labels",
    status: 201,
    body: newGroup,
    response: anything,
  }),
  removeGroup: operation({
    id: "removeGroup",
    method: "delete",
    path: "/api/v1/groups/{name}",
    summary: "Remove a group; its systems stay",
    status: 204,
    params: nameParams,
  }),
  listTokens: operation({
    id: "listTokens",
    method: "get",
    path: "/api/v1/tokens",
    summary: "Tokens that let senders push, without the tokens themselves",
    status: 200,
    response: z.object({ tokens: z.array(anything) }),
  }),
  addToken: operation({
    id: "addToken",
    method: "post",
    path: "/api/v1/tokens",
    summary: "Make a token; it is in this answer and nowhere else",
    status: 201,
    body: newToken,
    response: z.object({ id: z.int(), token: z.string() }),
  }),
  revokeToken: operation({
    id: "revokeToken",
    method: "delete",
    path: "/api/v1/tokens/{id}",
    summary: "Revoke a token",
    status: 204,
    params: idParams,
  }),
  listCatalogue: operation({
    id: "listCatalogue",
    method: "get",
    path: "/api/v1/catalogue",
    summary: "Every metric: unit, kind, meaning, where its limit comes from, who sends it, what it costs",
    status: 200,
    response: z.object({ metrics: z.array(anything) }),
  }),
  readFreshness: operation({
    id: "readFreshness",
    method: "get",
    path: "/api/v1/freshness",
    summary: "Samples a minute that really arrived, by system, over the last six hours",
    status: 200,
    query: z.strictObject({ scope }),
    response: anything,
  }),
  listRunners: operation({
    id: "listRunners",
    method: "get",
    path: "/api/v1/runners",
    summary: "Runners, what they did and whether they keep up",
    status: 200,
    response: anything,
  }),
  readStore: operation({
    id: "readStore",
    method: "get",
    path: "/api/v1/settings/store",
    summary: "What the store holds, what it costs, and how long each tier is kept",
    status: 200,
    response: anything,
  }),
  saveStore: operation({
    id: "saveStore",
    method: "put",
    path: "/api/v1/settings/store",
    summary: "Set how many days each tier is kept",
    status: 204,
    body: retentionInput,
  }),
  readDraft: operation({
    id: "readDraft",
    method: "get",
    path: "/api/v1/drafts/{name}",
    summary: "What was typed and not finished",
    status: 200,
    params: z.object({ name: z.enum(DRAFT_KEYS) }),
    response: anything,
  }),
  saveDraft: operation({
    id: "saveDraft",
    method: "put",
    path: "/api/v1/drafts/{name}",
    summary: "Keep what was typed; passwords are left out",
    status: 204,
    params: z.object({ name: z.enum(DRAFT_KEYS) }),
    body: draftInput,
  }),
  removeDraft: operation({
    id: "removeDraft",
    method: "delete",
    path: "/api/v1/drafts/{name}",
    summary: "Throw a draft away",
    status: 204,
    params: z.object({ name: z.enum(DRAFT_KEYS) }),
  }),
  listImports: operation({
    id: "listImports",
    method: "get",
    path: "/api/v1/imports",
    summary: "Files of samples that were imported, newest first",
    status: 200,
    response: z.object({ imports: z.array(anything) }),
  }),
  readImport: operation({
    id: "readImport",
    method: "get",
    path: "/api/v1/imports/{id}",
    summary: "How far an import is",
    status: 200,
    params: idParams,
    response: anything,
  }),
  startImport: operation({
    id: "startImport",
    method: "post",
    path: "/api/v1/imports/{id}/start",
    summary: "Read an uploaded file by a plan",
    status: 204,
    params: idParams,
    body: importPlan,
  }),
  cancelImport: operation({
    id: "cancelImport",
    method: "delete",
    path: "/api/v1/imports/{id}",
    summary: "Stop an import; what was read stays",
    status: 204,
    params: idParams,
  }),
  readQueryActivity: operation({
    id: "readQueryActivity",
    method: "get",
    path: "/api/v1/systems/{name}/queries",
    summary: "What each query of a database server came to in a time, beside another time to compare with",
    status: 200,
    params: nameParams,
    query: z
      .strictObject({ from: time, to: time, beforeFrom: time.optional(), beforeTo: time.optional() })
      .refine((query) => (query.beforeFrom === undefined) === (query.beforeTo === undefined), {
        path: ["beforeTo"],
        message: "a time to compare with has a start and an end",
      }),
    response: anything,
  }),
  listStatements: operation({
    id: "listStatements",
    method: "get",
    path: "/api/v1/systems/{name}/statements",
    summary: "Texts of a database server's queries, normalised, by their id",
    status: 200,
    params: nameParams,
    response: z.object({ statements: z.array(anything) }),
  }),
  listPlans: operation({
    id: "listPlans",
    method: "get",
    path: "/api/v1/systems/{name}/queries/{query}/plans",
    summary: "Plans that were seen of a query of a database server, the newest first",
    status: 200,
    params: queryParams,
    response: anything,
  }),
  askForPlan: operation({
    id: "askForPlan",
    method: "post",
    path: "/api/v1/systems/{name}/queries/{query}/plans",
    summary: "Ask a database server how it would execute one of its queries; nothing is executed",
    status: 200,
    params: queryParams,
    response: anything,
  }),
  readSessions: operation({
    id: "readSessions",
    method: "get",
    path: "/api/v1/systems/{name}/sessions",
    summary: "A database server's sessions as they were last, and who blocked whom in a time",
    status: 200,
    params: nameParams,
    query: z.strictObject({ from: time, to: time }),
    response: anything,
  }),
  listGcLogs: operation({
    id: "listGcLogs",
    method: "get",
    path: "/api/v1/systems/{name}/gc-logs",
    summary: "GC logs that were uploaded, with their analysis",
    status: 200,
    params: nameParams,
    response: z.object({ logs: z.array(anything) }),
  }),
  removeGcLog: operation({
    id: "removeGcLog",
    method: "delete",
    path: "/api/v1/gc-logs/{id}",
    summary: "Remove an uploaded GC log",
    status: 204,
    params: idParams,
  }),
  listGroups: operation({
    id: "listGroups",
    method: "get",
    path: "/api/v1/groups",
    summary: "Groups of systems; they nest",
    status: 200,
    response: z.object({ groups: z.array(anything) }),
  }),
  testSource: operation({
    id: "testSource",
    method: "post",
    path: "/api/v1/source-test",
    summary: "Collect once and show what came, or why nothing did; stores nothing",
    status: 200,
    body: sourceTest,
    response: z.object({
      ok: z.boolean(),
      error: z.object({ kind: z.string(), message: z.string() }).nullable(),
      durationMs: z.int(),
      metrics: z.array(anything),
      problems: z.array(z.object({ line: z.int(), message: z.string() })),
      parts: z.array(anything),
      partCount: z.int(),
      seriesCount: z.int(),
    }),
  }),
  listMetrics: operation({
    id: "listMetrics",
    method: "get",
    path: "/api/v1/metrics",
    summary: "Metrics that systems in scope send, with unit, kind and meaning",
    status: 200,
    query: z.strictObject({ scope }),
    response: z.object({ metrics: z.array(anything) }),
  }),
  listHeadlines: operation({
    id: "listHeadlines",
    method: "get",
    path: "/api/v1/headlines",
    summary: "The figure on each system's card, with its last six hours",
    status: 200,
    query: z.strictObject({ scope }),
    response: z.object({ headlines: z.array(anything) }),
  }),
  listSeries: operation({
    id: "listSeries",
    method: "get",
    path: "/api/v1/series",
    summary: "Series by system and metric, with the time of their newest sample",
    status: 200,
    query: z.strictObject({ system: z.string().max(200).optional(), metric: z.string().max(200).optional() }),
    response: z.object({
      series: z.array(
        z.object({
          id: z.int(),
          metric: z.string(),
          system: z.string(),
          labels: z.record(z.string(), z.string()),
          unit: z.string(),
          kind: z.enum(["gauge", "counter"]),
          newestSampleAt: z.number().nullable(),
        }),
      ),
    }),
  }),
  listRunways: operation({
    id: "listRunways",
    method: "get",
    path: "/api/v1/runways",
    summary:
      "What reaches its ceiling within some 400 days at the slope of the last four weeks, the soonest first",
    status: 200,
    query: z.strictObject({ scope }),
    response: z.object({ runways: z.array(anything) }),
  }),
  listDependencies: operation({
    id: "listDependencies",
    method: "get",
    path: "/api/v1/dependencies",
    summary: "What runs on what and who reads from whom, with the ports it is reached at",
    status: 200,
    query: z.strictObject({ scope }),
    response: z.object({ dependencies: z.array(anything) }),
  }),
  listBoards: operation({
    id: "listBoards",
    method: "get",
    path: "/api/v1/boards",
    summary: "Boards: those that people made, and those that kits bring",
    status: 200,
    response: z.object({ boards: z.array(anything) }),
  }),
  addBoard: operation({
    id: "addBoard",
    method: "post",
    path: "/api/v1/boards",
    summary: "Make a board, also by import; the JSON Schema of its definition is at /api/board.schema.json",
    status: 201,
    body: newBoard,
    response: z.object({ name: z.string() }),
  }),
  readBoard: operation({
    id: "readBoard",
    method: "get",
    path: "/api/v1/boards/{name}",
    summary: "A board with its version",
    status: 200,
    params: nameParams,
    response: anything,
  }),
  saveBoard: operation({
    id: "saveBoard",
    method: "put",
    path: "/api/v1/boards/{name}",
    summary: "Save a change of one version; refused when another was saved since",
    status: 200,
    params: nameParams,
    body: boardSaving,
    response: z.object({ version: z.int() }),
  }),
  removeBoard: operation({
    id: "removeBoard",
    method: "delete",
    path: "/api/v1/boards/{name}",
    summary: "Remove a board with its versions",
    status: 204,
    params: nameParams,
  }),
  addTile: operation({
    id: "addTile",
    method: "post",
    path: "/api/v1/boards/{name}/tiles",
    summary: "Add a tile below the others",
    status: 200,
    params: nameParams,
    body: newTile,
    response: z.object({ version: z.int() }),
  }),
  listBoardVersions: operation({
    id: "listBoardVersions",
    method: "get",
    path: "/api/v1/boards/{name}/versions",
    summary: "The versions of a board that are kept, newest first",
    status: 200,
    params: nameParams,
    response: z.object({ versions: z.array(anything) }),
  }),
  drawChart: operation({
    id: "drawChart",
    method: "post",
    path: "/api/v1/chart",
    summary:
      "A chart computed: lines read, combined, calculated and thinned to the pixels asked for, with its working",
    status: 200,
    body: drawInput.extend({ from: time, to: time }),
    response: anything,
  }),
  listLabelSets: operation({
    id: "listLabelSets",
    method: "get",
    path: "/api/v1/labels",
    summary: "The label sets that series of a metric carry in a scope; the system is among the labels",
    status: 200,
    query: z.strictObject({ metric: z.string().min(1).max(200), scope }),
    response: z.object({ sets: z.array(z.record(z.string(), z.string())) }),
  }),
  query: operation({
    id: "query",
    method: "post",
    path: "/api/v1/query",
    summary: "Samples of a metric, as they are, in buckets, or as the rate of a counter",
    status: 200,
    body: z
      .strictObject({
        metric: z.string().min(1).max(200),
        system: z.string().max(200).optional().describe("one system; left out: all"),
        scope: scope.optional(),
        labels: z.record(z.string().max(200), z.string().max(1000)).optional(),
        from: time,
        to: time,
        step: z
          .number()
          .min(0.001)
          .max(31_536_000)
          .optional()
          .describe("bucket width in seconds; left out: every sample"),
        agg: aggregation.optional(),
        rate: z.boolean().optional().describe("counters as rates per second; gauges stay as they are"),
      })
      .refine((body) => body.agg === undefined || body.step !== undefined, {
        path: ["agg"],
        message: "an aggregation needs a step",
      }),
    response: z.object({
      series: z.array(
        z.object({
          id: z.int(),
          metric: z.string(),
          system: z.string(),
          labels: z.record(z.string(), z.string()),
          unit: z.string(),
          times: z.array(z.number()).describe("epoch milliseconds; the start of a bucket"),
          values: z.array(number),
        }),
      ),
    }),
  }),
  listAlerts: operation({
    id: "listAlerts",
    method: "get",
    path: "/api/v1/alerts",
    summary: "Alerts; open ones first, by urgency",
    status: 200,
    query: z.strictObject({
      state: z.enum(ALERT_STATES, `use one of ${ALERT_STATES.join(", ")}`).optional(),
      scope,
      from: time.optional(),
      to: time.optional(),
      limit: z.coerce.number().int().min(1).max(2000).default(500),
    }),
    response: z.object({ alerts: z.array(anything), raised: levelCounts }),
  }),
  readAlert: operation({
    id: "readAlert",
    method: "get",
    path: "/api/v1/alerts/{id}",
    summary: "One alert with what happened to it",
    status: 200,
    params: idParams,
    response: anything,
  }),
  acknowledgeAlert: operation({
    id: "acknowledgeAlert",
    method: "post",
    path: "/api/v1/alerts/{id}/acknowledge",
    summary: "Take an alert on, with a note",
    status: 200,
    params: idParams,
    body: acknowledgement,
    response: anything,
  }),
  listRules: operation({
    id: "listRules",
    method: "get",
    path: "/api/v1/rules",
    summary: "Rules",
    status: 200,
    query: z.strictObject({ scope }),
    response: z.object({ rules: z.array(anything) }),
  }),
  addRule: operation({
    id: "addRule",
    method: "post",
    path: "/api/v1/rules",
    summary: "Add a rule",
    status: 201,
    body: newRule,
    response: anything,
  }),
  readRule: operation({
    id: "readRule",
    method: "get",
    path: "/api/v1/rules/{id}",
    summary: "One rule",
    status: 200,
    params: idParams,
    response: anything,
  }),
  changeRule: operation({
    id: "changeRule",
    method: "patch",
    path: "/api/v1/rules/{id}",
    summary: "Change a rule, or switch it on or off",
    status: 200,
    params: idParams,
    body: ruleChange,
    response: anything,
  }),
  removeRule: operation({
    id: "removeRule",
    method: "delete",
    path: "/api/v1/rules/{id}",
    summary: "Remove a rule; its open alerts end",
    status: 204,
    params: idParams,
  }),
  listContacts: operation({
    id: "listContacts",
    method: "get",
    path: "/api/v1/contacts",
    summary: "Who can be told",
    status: 200,
    query: z.strictObject({}),
    response: z.object({ contacts: z.array(anything) }),
  }),
  addContact: operation({
    id: "addContact",
    method: "post",
    path: "/api/v1/contacts",
    summary: "Add a contact",
    status: 201,
    body: newContact,
    response: z.object({ id: z.int() }),
  }),
  removeContact: operation({
    id: "removeContact",
    method: "delete",
    path: "/api/v1/contacts/{id}",
    summary: "Remove a contact that no rule tells",
    status: 204,
    params: idParams,
  }),
  listNotices: operation({
    id: "listNotices",
    method: "get",
    path: "/api/v1/notices",
    summary: "Notices, newest first, with their attempts",
    status: 200,
    query: z.strictObject({ scope }),
    response: z.object({ notices: z.array(anything) }),
  }),
  readStrip: operation({
    id: "readStrip",
    method: "get",
    path: "/api/v1/strip",
    summary: "Alert activity and change marks over a time",
    status: 200,
    query: z.strictObject({ from: time, to: time, scope }),
    response: z.object({ alerts: z.array(anything), marks: z.array(anything) }),
  }),
  readMailSettings: operation({
    id: "readMailSettings",
    method: "get",
    path: "/api/v1/settings/mail",
    summary: "Mail settings, without the password",
    status: 200,
    response: z.object({ mail: anything.nullable() }),
  }),
  saveMailSettings: operation({
    id: "saveMailSettings",
    method: "put",
    path: "/api/v1/settings/mail",
    summary: "Set how notices leave",
    status: 204,
    body: mailSettingsInput,
  }),
  testMail: operation({
    id: "testMail",
    method: "post",
    path: "/api/v1/settings/mail/test",
    summary: "Send one mail with the stored settings and tell what the server said",
    status: 200,
    body: z.strictObject({ to: z.email("write a mail address") }),
    response: z.object({ ok: z.boolean(), detail: z.string() }),
  }),
  health: operation({
    id: "health",
    method: "get",
    path: "/api/health",
    summary: "Whether the database can be reached and runners are at work",
    status: 200,
    response: anything,
  }),
} as const;
