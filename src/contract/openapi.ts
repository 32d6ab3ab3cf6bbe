import { z } from "zod";
import { type ProblemKind, problem, statusOf, titleOf } from "@/core/problem/problem";
import { type Answer, type Call, commonProblems, problemDocuments } from "./call";
import { common } from "./common";
import { conversations } from "./conversations";
import { health } from "./health";
import { marks } from "./marks";
import { replies } from "./replies";
import { visitors } from "./visitors";

/**
 * The endpoints of an app as OpenAPI 3.1 (https://spec.openapis.org/oas/v3.1.1), made from the contract. Its
 * schemas are JSON Schema 2020-12, which that version takes as it is.
 */

/** The calls that are described, in reading order, by the name that each has in the document. */
export const described: Record<string, Call> = {
  askForReply: replies.ask,
  readReply: replies.read,
  stopReply: replies.stop,
  rateReply: marks.rate,
  listConversations: conversations.list,
  readConversation: conversations.read,
  readReach: conversations.reach,
  deleteConversation: conversations.delete,
  openVisitor: visitors.open,
  forgetVisitor: visitors.forget,
  askInCommonShape: common.chat,
  listModels: common.models,
  describe: replies.describe,
  readStyle: visitors.style,
  health,
};

const mediaTypes = {
  json: "application/json",
  events: "text/event-stream",
  lines: "application/x-ndjson",
};

const headers: Record<string, string> = {
  accept: "`text/event-stream` for a stream, `application/x-ndjson` for lines; else one whole answer.",
  prefer: "`respond-async` for an answer at once, with the reply to be read later.",
  "idempotency-key": "The same key and body of the same caller give the same reply, once, for a day.",
  "last-event-id": "Events after this one.",
};

/** Which app is described, where, and by which version of Unruly Finch. */
export interface Described {
  slug: string;
  name: string;
  /** Scheme, host and port. */
  base: string;
  version: string;
}

/** The document. */
export function openApiOf({ slug, name, base, version }: Described) {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [id, call] of Object.entries(described)) {
    const path = call.path.replace("{slug}", slug);
    paths[path] = { ...paths[path], [call.method.toLowerCase()]: operationOf(id, call) };
  }
  return {
    openapi: "3.1.0",
    info: { title: name, version, description: `The endpoints of ${name}, which any front end may use.` },
    servers: [{ url: base }],
    paths,
    components: {
      schemas: { Problem: jsonSchema(problemDocuments.schema, "output") },
      securitySchemes: {
        token: { type: "http", scheme: "bearer", description: "A token made in Serve, or the pass of a visitor." },
        visitor: { type: "apiKey", in: "header", name: "Finch-Visitor", description: "The visitor's name." },
        cookie: { type: "apiKey", in: "cookie", name: "finch_visitor", description: "Set by the first answer." },
      },
    },
  };
}

function operationOf(id: string, call: Call) {
  const { body, example } = call;
  return {
    operationId: id,
    summary: call.does,
    parameters: parametersOf(call),
    ...(body
      ? {
          requestBody: {
            required: true,
            content: {
              [body.type]: {
                schema: jsonSchema(body.schema, "input"),
                ...(example?.body === undefined ? {} : { example: example.body }),
              },
            },
          },
        }
      : {}),
    responses: { ...answersOf(call), ...refusalsOf(call) },
    security:
      call.by === "anyone" ? [] : [{ token: [], visitor: [] }, { token: [] }, { visitor: [] }, { cookie: [] }, {}],
  };
}

function parametersOf(call: Call) {
  const inPath = [...call.path.replace("{slug}", "").matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: "path",
    required: true,
    schema: { type: "string" },
  }));
  const query = call.query instanceof z.ZodObject ? Object.entries(call.query.shape) : [];
  const inQuery = query.map(([name, schema]) => ({
    name,
    in: "query",
    required: false,
    schema: jsonSchema(schema as z.ZodType, "input"),
  }));
  const inHeaders = call.headers
    // an Accept is described by the kinds of answers
    .filter((name) => name !== "accept")
    .map((name) => ({ name, in: "header", required: false, description: headers[name], schema: { type: "string" } }));
  return [...inPath, ...inQuery, ...inHeaders];
}

function answersOf({ answers, does }: Call) {
  return Object.fromEntries(
    Object.entries(answers).map(([status, declared]) => {
      const all: Answer[] = "kind" in declared ? [declared as Answer] : [...(declared as readonly Answer[])];
      const content = all.flatMap((answer) =>
        answer.kind === "nothing"
          ? []
          : [
              [
                answer.kind === "text" ? answer.type : mediaTypes[answer.kind],
                answer.kind === "json" || answer.kind === "text"
                  ? { schema: jsonSchema(answer.schema, "output") }
                  : streamed(answer),
              ],
            ],
      );
      return [status, { description: does, ...(content.length > 0 ? { content: Object.fromEntries(content) } : {}) }];
    }),
  );
}

/** A stream has no schema of its own in this version: what each event holds is said beside it. */
function streamed({ schema }: Extract<Answer, { schema: z.ZodType }>) {
  return { schema: { type: "string" }, "x-event": jsonSchema(schema, "output") };
}

/** What a call is refused with, by status; each kind of problem with an example. */
function refusalsOf({ problems, errors }: Call) {
  const byStatus = new Map<number, ProblemKind[]>();
  for (const kind of new Set([...problems, ...commonProblems]))
    byStatus.set(statusOf(kind), [...(byStatus.get(statusOf(kind)) ?? []), kind]);
  return Object.fromEntries(
    [...byStatus].map(([status, kinds]) => [
      String(status),
      {
        description: kinds.map(titleOf).join(". "),
        content: {
          [errors.type]: {
            schema:
              errors === problemDocuments
                ? { allOf: [{ $ref: "#/components/schemas/Problem" }, { properties: { kind: { enum: kinds } } }] }
                : jsonSchema(errors.schema, "output"),
            examples: Object.fromEntries(
              kinds.map((kind) => [kind, { value: errors.write(problem(kind, `${titleOf(kind)}.`), {}) }]),
            ),
          },
        },
      },
    ]),
  );
}

function jsonSchema(schema: z.ZodType, io: "input" | "output"): unknown {
  const { $schema: _dialect, ...rest } = z.toJSONSchema(schema, { io, unrepresentable: "any" });
  return rest;
}
