import { z } from "zod";
import { lookSchema } from "@/core/look/look";
import { problemSchema } from "@/core/problem/problem";
import { replyStates } from "@/core/reply/reply";
import { contentSchema } from "@/core/revision/content";
import { accessSchema } from "@/core/serving/access";
import { call, json, jsonBody, nothing } from "./call";

/** Tokens that a server or a page calls with, and the secret that a site signs identities with. */
const tokenKinds = ["server", "public", "site"] as const;

const tokenSchema = z.object({
  id: z.string(),
  kind: z.enum(tokenKinds),
  name: z.string(),
  /** Its last characters. */
  hint: z.string(),
  createdAt: z.int(),
  usedAt: z.int().nullable(),
});
export type Token = z.infer<typeof tokenSchema>;

/** One hop on the way from a visitor to a provider, and how it stands. */
const hopSchema = z.object({
  where: z.enum(["visitor", "page", "endpoints", "revision", "provider"]),
  state: z.enum(["good", "quiet", "bad"]),
  /** In plain words. */
  says: z.string(),
});
export type Hop = z.infer<typeof hopSchema>;

/** How an app is served. */
const servingSchema = z.object({
  liveRevision: z.int(),
  previewRevision: z.int().nullable(),
  access: accessSchema,
  look: lookSchema,
  /** Where the style sheet comes from that the page has: the look, or a file of the data folder, which goes before it. */
  style: z.object({ file: z.string(), isFromFile: z.boolean(), version: z.string() }),
  tokens: z.array(tokenSchema),
  /** The variables that the prompt of the live revision leaves to calls, each with a value to try it with. */
  asks: z.array(z.object({ name: z.string(), sample: z.string() })),
  /** Scheme, host and port of the page and the endpoints. */
  base: z.string(),
  /** Calls of the day, those of the page among them. */
  today: z.object({ calls: z.int(), ofPage: z.int(), price: z.number(), currency: z.string() }),
  hops: z.array(hopSchema),
});
export type Serving = z.infer<typeof servingSchema>;

const calledSchema = z.object({
  id: z.string(),
  at: z.int(),
  method: z.string(),
  path: z.string(),
  origin: z.enum(["page", "http", "terminal"]),
  client: z.string().nullable(),
  shape: z.enum(["own", "common"]),
  visitor: z.string().nullable(),
  webOrigin: z.string().nullable(),
  address: z.string(),
  status: z.int(),
  problem: problemSchema.nullable(),
  reply: z.string().nullable(),
  /** Of its reply, once that has ended. */
  ended: z
    .object({
      state: z.enum(replyStates),
      at: z.int(),
      firstTextMs: z.number().nullable(),
      usage: z.object({ input: z.number(), output: z.number(), price: z.number(), currency: z.string() }).nullable(),
    })
    .nullable(),
});
export type Called = z.infer<typeof calledSchema>;

const calledPage = z.object({
  calls: z.array(calledSchema),
  /** Give it as `before` for the calls that came before these; null at the first. */
  before: z.string().nullable(),
});
export type CalledPage = z.infer<typeof calledPage>;

/** How an app is served: who may call, how its page looks, what is live and tried, and the calls that came. */
export const serving = {
  read: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/serving",
    by: "bench",
    does: "Reads how an app is served.",
    answers: { 200: json(servingSchema) },
    problems: ["not-found"],
  }),
  setAccess: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/access",
    by: "bench",
    does: "Says who may call an app, and how much.",
    body: jsonBody(z.strictObject({ access: accessSchema })),
    answers: { 200: json(servingSchema) },
    problems: ["not-found"],
  }),
  setLook: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/look",
    by: "bench",
    does: "Dresses the page of an app.",
    body: jsonBody(z.strictObject({ look: lookSchema })),
    answers: { 200: json(servingSchema) },
    problems: ["not-found"],
  }),
  setPreview: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/preview",
    by: "bench",
    does: "Makes content the preview, which visitors try at an address of its own; null ends that.",
    body: jsonBody(z.strictObject({ content: contentSchema.nullable() })),
    answers: { 200: json(servingSchema) },
    problems: ["not-found"],
  }),
  makeToken: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/tokens",
    by: "bench",
    does: "Makes a token that a front end calls with; its text is given this once.",
    body: jsonBody(z.strictObject({ kind: z.enum(tokenKinds), name: z.string().trim().min(1, "is empty").max(60) })),
    answers: { 201: json(z.object({ token: tokenSchema, text: z.string() })) },
    problems: ["not-found"],
  }),
  revokeToken: call({
    method: "DELETE",
    path: "/api/bench/apps/{slug}/tokens/{id}",
    by: "bench",
    does: "Ends a token for good, with the visitors that it opened.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  makeFrontEnd: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/front-end",
    by: "bench",
    does: "Gives a front end in one HTML file, with the app's address and a new public token in it.",
    body: jsonBody(z.strictObject({})),
    answers: { 201: json(z.object({ token: tokenSchema, html: z.string() })) },
    problems: ["not-found"],
  }),
  calls: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/calls",
    by: "bench",
    does: "Lists the calls of an app, the latest first, by page.",
    query: z.object({
      before: z.string().max(100).optional(),
      only: z.enum(["all", "refused", "failed"]).optional(),
    }),
    answers: { 200: json(calledPage) },
    problems: ["not-found"],
  }),
  callFile: call({
    method: "GET",
    path: "/api/bench/calls/{id}/file",
    by: "bench",
    does: "Gives one call away: all that is known of it and of its dispatches, without secrets, in one file.",
    answers: { 200: json(z.json()) },
    problems: ["not-found"],
  }),
};
