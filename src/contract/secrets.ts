import { z } from "zod";
import { call, json, jsonBody, nothing } from "./call";
import { secretSchema, shownSecret } from "./credentials";

const namedSecret = z.object({ name: z.string(), secret: shownSecret });
export type NamedSecret = z.infer<typeof namedSecret>;

/** What headers of an app's tools may carry. */
export const secrets = {
  list: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/secrets",
    by: "bench",
    does: "Lists the secrets that an app is given for its tools, never what they are.",
    answers: { 200: json(z.object({ secrets: z.array(namedSecret) })) },
    problems: ["not-found"],
  }),
  give: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/secrets/{name}",
    by: "bench",
    does: "Gives an app a secret for its tools, by the name that their headers have for it: from a variable, or typed once and sealed.",
    body: jsonBody(z.union([secretSchema.options[0], secretSchema.options[1]])),
    answers: { 200: json(namedSecret) },
    problems: ["bad-request", "not-found"],
  }),
  take: call({
    method: "DELETE",
    path: "/api/bench/apps/{slug}/secrets/{name}",
    by: "bench",
    does: "Takes a secret away from an app.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
};
