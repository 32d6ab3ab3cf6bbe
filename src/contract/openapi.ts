import { z } from "zod";
import { type ProblemKind, problem, statusOf, titleOf } from "@/core/problem/problem";
import type { ReplySchema } from "@/core/typed/schema";
import { type Answer, type Call, commandFor, commonProblems, type InputOf, problemDocuments } from "./call";
import { common } from "./common";
import { conversations } from "./conversations";
import { documents } from "./documents";
import { exampleFor, type Needs } from "./example";
import { files } from "./files";
import { health } from "./health";
import { marks } from "./marks";
import { replies } from "./replies";
import { visitors } from "./visitors";

/**
 * The endpoints of an app as OpenAPI 3.1 (https://spec.openapis.org/oas/v3.1.1), made from the contract, or as 3.2,
 * which describes the items of a stream. Schemas are JSON Schema 2020-12, which both take as it is; one that has a name
 * in the contract (`meta({ id })`) stands among the components, and is referred to.
 */

/** The calls that are described, in reading order, by the name that each has in the document. */
export const described: Record<string, Call> = {
  askForReply: replies.ask,
  readReply: replies.read,
  stopReply: replies.stop,
  sayToCall: replies.sayToCall,
  rateReply: marks.rate,
  listConversations: conversations.list,
  readConversation: conversations.read,
  readReach: conversations.reach,
  showLine: conversations.show,
  nameConversation: conversations.name,
  deleteConversation: conversations.delete,
  keepFile: files.keep,
  readFile: files.read,
  handInDocument: documents.handIn,
  handInAddress: documents.handInAddress,
  listDocuments: documents.list,
  forgetDocument: documents.forget,
  openVisitor: visitors.open,
  forgetVisitor: visitors.forget,
  renewBadge: visitors.badge,
  askInCommonShape: common.chat,
  listModels: common.models,
  readModel: common.model,
  describe: replies.describe,
  readStyle: visitors.style,
  health,
};

const mediaTypes = {
  json: "application/json",
  events: "text/event-stream",
  lines: "application/x-ndjson",
};

/** Headers that a caller sends. */
const sentHeaders: Record<string, string> = {
  accept: "`text/event-stream` for a stream, `application/x-ndjson` for lines; else one whole answer.",
  prefer:
    "`respond-async` for an answer at once, with the reply to be read later; `wait=30` to wait for so many seconds until a reply has ended, or waits for its caller.",
  "idempotency-key": "The same key and body of the same caller give the same reply, once, for a day.",
  "last-event-id": "Events after this one.",
  "finch-badge":
    "What shows that a front end calls that comes with Unruly Finch: the page, a frame of it, the terminal.",
};

/** Headers that answers have, by their names among the components. */
const answerHeaders = {
  "Finch-Call": "The id of the call, as the list in Serve and the log have it.",
  "Finch-Visitor": "The visitor that this call made, where the caller gave no name.",
  "Finch-Pass": "What that visitor calls with from now on, as a bearer token, on a page of another origin.",
  Location: "Where the reply is read.",
  "Preference-Applied": "`respond-async`, or `wait`, where that was asked for.",
  RateLimit: "What is left of each limit of a minute (draft-ietf-httpapi-ratelimit-headers).",
  "RateLimit-Policy": "The limits of a minute.",
  "Retry-After": "Seconds to wait.",
  "WWW-Authenticate": "`Bearer`: a token is wanted.",
} as const;
type AnswerHeader = keyof typeof answerHeaders;

const tags = [
  ["replies", "Asking for replies, reading, stopping and marking them."],
  ["conversations", "What the caller has said before, and what the app answered."],
  ["files", "Pictures that are sent with messages."],
  ["visitors", "Who the caller is."],
  ["common shape", "The shape that most model servers share."],
  ["about", "The app itself."],
] as const;

/** Versions of OpenAPI that there are. */
export type Version = "3.1" | "3.2";

/** Which app is described, where, and by which version of Unruly Finch. */
export interface Described extends Needs {
  slug: string;
  name: string;
  /** Scheme, host and port. */
  base: string;
  version: string;
  /** What its replies have to fit, where they are data. */
  schema?: ReplySchema;
}

/** The document. @param as the version of OpenAPI */
export function openApiOf(app: Described, as: Version = "3.1") {
  const { slug, name, base, version } = app;
  const schemas = new Schemas(app);
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [id, call] of Object.entries(described)) {
    const path = call.path.replace("{slug}", slug);
    paths[path] = { ...paths[path], [call.method.toLowerCase()]: operationOf(id, call, app, schemas, as) };
  }
  return {
    openapi: `${as}.0`,
    info: { title: name, version, description: `The endpoints of ${name}, which any front end may use.` },
    servers: [{ url: base }],
    tags: tags.map(([tag, description]) => ({ name: tag, description })),
    paths,
    components: {
      schemas: schemas.named(),
      headers: Object.fromEntries(
        Object.entries(answerHeaders).map(([name, description]) => [name, { description, schema: { type: "string" } }]),
      ),
      securitySchemes: {
        token: {
          type: "http",
          scheme: "bearer",
          description: "A token made in Serve, the pass of a visitor, or an identity that a site signed.",
        },
        visitor: { type: "apiKey", in: "header", name: "Finch-Visitor", description: "The visitor's name." },
        cookie: { type: "apiKey", in: "cookie", name: "finch_visitor", description: "Set by the first answer." },
      },
    },
  };
}

function operationOf(id: string, call: Call, app: Described, schemas: Schemas, as: Version) {
  const { body } = call;
  const shown = exampleFor(call, app);
  const input = { slug: app.slug, id: placeholderOf(call) };
  return {
    operationId: id,
    summary: call.does,
    tags: [tagOf(call)],
    parameters: parametersOf(call, schemas),
    ...(call.takes
      ? {
          requestBody: {
            required: true,
            // bytes as they are (https://spec.openapis.org/oas/v3.1.1, 4.8.14.3)
            content: Object.fromEntries(call.takes.types.map((type) => [type, { schema: {} }])),
          },
        }
      : {}),
    ...(body
      ? {
          requestBody: {
            required: true,
            content: {
              [body.type]: {
                schema: schemas.of(body.schema, "input"),
                ...(shown.example?.body === undefined ? {} : { example: shown.example.body }),
              },
            },
          },
        }
      : {}),
    responses: { ...answersOf(call, schemas, as), ...refusalsOf(call, schemas) },
    security: securityOf(call, app),
    "x-codeSamples": [{ lang: "Shell", source: commandFor(shown, app.base, input as unknown as InputOf<Call>) }],
  };
}

function placeholderOf({ path }: Call): string {
  if (path.includes("/files/")) return "FILE";
  return path.includes("/replies/") ? "REPLY" : "CONVERSATION";
}

function tagOf({ path }: Call): (typeof tags)[number][0] {
  if (path.includes("/v1/")) return "common shape";
  if (path.includes("/replies")) return "replies";
  if (path.includes("/conversations")) return "conversations";
  if (path.includes("/files")) return "files";
  return path.includes("/visitors") || path.includes("/badges") ? "visitors" : "about";
}

/** How one says who one is, as the app takes it. */
function securityOf({ by }: Call, { callers }: Described): Record<string, string[]>[] {
  if (by === "anyone") return [];
  const withToken: Record<string, string[]>[] = [{ token: [], visitor: [] }, { token: [] }];
  return callers === "machine" ? [...withToken, { visitor: [] }, { cookie: [] }, {}] : withToken;
}

function parametersOf(call: Call, schemas: Schemas) {
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
    schema: schemas.of(schema as z.ZodType, "input"),
  }));
  const inHeaders = call.headers
    // an Accept is described by the kinds of answers
    .filter((name) => name !== "accept")
    .map((name) => ({
      name,
      in: "header",
      required: false,
      description: sentHeaders[name],
      schema: { type: "string" },
    }));
  return [...inPath, ...inQuery, ...inHeaders];
}

function answersOf(call: Call, schemas: Schemas, as: Version) {
  return Object.fromEntries(
    Object.entries(call.answers).map(([status, declared]) => {
      const all: Answer[] = "kind" in declared ? [declared as Answer] : [...(declared as readonly Answer[])];
      const content = all.flatMap((answer) =>
        answer.kind === "nothing"
          ? []
          : mediaTypesOf(answer).map((type): [string, object] => [type, mediaOf(answer, schemas, as)]),
      );
      return [
        status,
        {
          description: call.does,
          ...headersAt(call, Number(status)),
          ...(content.length > 0 ? { content: Object.fromEntries(content) } : {}),
        },
      ];
    }),
  );
}

function mediaTypesOf(answer: Exclude<Answer, { kind: "nothing" }>): readonly string[] {
  if (answer.kind === "bytes") return answer.types;
  return [answer.kind === "text" ? answer.type : mediaTypes[answer.kind]];
}

/**
 * What one kind of answer holds. A stream is a text to OpenAPI 3.1, with what its items are beside it; 3.2 has a place
 * for that.
 */
function mediaOf(answer: Exclude<Answer, { kind: "nothing" }>, schemas: Schemas, as: Version) {
  if (answer.kind === "bytes") return { schema: {} };
  if (answer.kind === "json" || answer.kind === "text") return { schema: schemas.of(answer.schema, "output") };
  const item = answer.kind === "lines" ? schemas.of(answer.schema, "output") : eventItem(answer.schema, schemas);
  return as === "3.2" ? { itemSchema: item } : { schema: { type: "string" }, "x-item-schema": item };
}

/** One server-sent event: its fields are texts, and its data is the JSON of a value. */
function eventItem(schema: z.ZodType, schemas: Schemas) {
  const dataOf = (of: z.ZodType) => ({
    type: "string",
    contentMediaType: "application/json",
    contentSchema: schemas.of(of, "output"),
  });
  if (!(schema instanceof z.ZodDiscriminatedUnion))
    return { type: "object", required: ["data"], properties: { data: dataOf(schema) } };
  return {
    oneOf: schema.options.map((option) => {
      const { event, data } = (option as z.ZodObject).shape as { event: z.ZodLiteral; data: z.ZodType };
      return {
        type: "object",
        required: ["id", "event", "data"],
        properties: { id: { type: "string" }, event: { const: event.value }, data: dataOf(data) },
      };
    }),
  };
}

/** The headers that answers of a status have. */
function headersAt({ by, headers, path }: Call, status: number): { headers?: Record<string, { $ref: string }> } {
  const names: AnswerHeader[] = by === "visitor" ? ["Finch-Call", "RateLimit", "RateLimit-Policy"] : [];
  if (path === replies.ask.path && status < 300) names.push("Finch-Visitor", "Finch-Pass");
  if (headers.includes("prefer") && status === 202) names.push("Location", "Preference-Applied");
  if (status === 401) names.push("WWW-Authenticate");
  if (status === 429 || status === 503) names.push("Retry-After");
  if (names.length === 0) return {};
  return { headers: Object.fromEntries(names.map((name) => [name, { $ref: `#/components/headers/${name}` }])) };
}

/** What a call is refused with, by status; each kind of problem with an example. */
function refusalsOf(call: Call, schemas: Schemas) {
  const { problems, errors } = call;
  const byStatus = new Map<number, ProblemKind[]>();
  for (const kind of new Set([...problems, ...commonProblems]))
    byStatus.set(statusOf(kind), [...(byStatus.get(statusOf(kind)) ?? []), kind]);
  return Object.fromEntries(
    [...byStatus].map(([status, kinds]) => [
      String(status),
      {
        description: kinds.map(titleOf).join(". "),
        ...headersAt(call, status),
        content: {
          [errors.type]: {
            schema:
              errors === problemDocuments
                ? { allOf: [schemas.of(errors.schema, "output"), { properties: { kind: { enum: kinds } } }] }
                : schemas.of(errors.schema, "output"),
            examples: Object.fromEntries(
              kinds.map((kind) => [kind, { value: errors.write(problem(kind, `${titleOf(kind)}.`), {}) }]),
            ),
          },
        },
      },
    ]),
  );
}

type JsonSchema = z.core.JSONSchema.BaseSchema;

const place = "#/components/schemas/";

/** The schemas of one document: those with a name are gathered, and referred to by it. */
class Schemas {
  private readonly gathered = new Map<string, JsonSchema>();

  constructor(private readonly app: Pick<Described, "asks" | "schema">) {}

  /** A schema as it stands in the document. */
  of(schema: z.ZodType, io: "input" | "output"): JsonSchema {
    // as a member of an object, one with a name becomes a reference itself
    const { $defs = {}, properties } = z.toJSONSchema(z.object({ it: schema }), {
      io,
      unrepresentable: "any",
      override: ({ jsonSchema }) => withoutSafeBounds(jsonSchema),
    });
    for (const [name, { id: _id, ...named }] of Object.entries($defs as Record<string, JsonSchema>))
      this.gathered.set(name, this.forApp(name, referring(named)));
    return referring((properties as Record<string, JsonSchema>).it as JsonSchema);
  }

  /** All that have a name, by it. */
  named(): Record<string, JsonSchema> {
    return Object.fromEntries([...this.gathered].sort(([one], [other]) => (one < other ? -1 : 1)));
  }

  /** What is so of this app alone: what its replies are as data, the variables that its prompt leaves to calls, and that they are needed. */
  private forApp(name: string, schema: JsonSchema): JsonSchema {
    if (name === "WholeAnswer" && this.app.schema) {
      this.gathered.set(replyData, rooted(this.app.schema));
      const { data, ...properties } = schema.properties ?? {};
      return { ...schema, properties: { ...properties, data: { ...(data as object), $ref: `${place}${replyData}` } } };
    }
    const names = this.app.asks.map((asked) => asked.name);
    if (name === "Variables")
      return {
        type: "object",
        properties: Object.fromEntries(names.map((each) => [each, { type: "string", maxLength: 10_000 }])),
        required: names,
        additionalProperties: false,
      };
    const takesThem = (schema.properties?.variables as JsonSchema | undefined)?.$ref === `${place}Variables`;
    if (!takesThem || names.length === 0) return schema;
    return { ...schema, required: [...(schema.required ?? []), "variables"] };
  }
}

/** The name of what an app's replies are as data. */
const replyData = "ReplyData";

/** A schema of an app's own as it stands in the document: its references lead into it there. */
function rooted(schema: ReplySchema): JsonSchema {
  const { $id: _id, $schema: _schema, ...own } = schema;
  const at = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(at);
    if (typeof value !== "object" || value === null) return value;
    return Object.fromEntries(
      Object.entries(value).map(([name, each]) =>
        name === "$ref" && typeof each === "string" && each.startsWith("#")
          ? [name, `${place}${replyData}${each.slice(1)}`]
          : [name, at(each)],
      ),
    );
  };
  return at(own) as JsonSchema;
}

/** A schema with references to where named schemas stand in the document. */
function referring<T>(value: T): T {
  return JSON.parse(JSON.stringify(value).replaceAll('"#/$defs/', `"${place}`)) as T;
}

/** A whole number of JavaScript has bounds, which say nothing of what may stand there. */
function withoutSafeBounds(schema: JsonSchema): void {
  if (schema.minimum === Number.MIN_SAFE_INTEGER) delete schema.minimum;
  if (schema.maximum === Number.MAX_SAFE_INTEGER) delete schema.maximum;
}
