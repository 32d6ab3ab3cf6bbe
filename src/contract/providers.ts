import { z } from "zod";
import { limitsSchema } from "@/core/provider/limits";
import { modelSchema, modelVersionSchema } from "@/core/provider/model";
import { probeReportSchema, probeStepSchema } from "@/core/provider/probe";
import { calibrationSchema } from "@/core/tokens/calibration";
import { ownSettingSchema } from "@/core/wire/own-settings";
import { piecePlacesSchema } from "@/core/wire/places";
import { call, json, jsonBody, lines, nothing } from "./call";
import {
  address,
  commandSchema,
  credentialSchema,
  headersSchema,
  secretSchema,
  shownCredentialSchema,
  shownSecret,
} from "./credentials";
import {
  faultPlanSchema,
  faultSchema,
  lastAnswerSchema,
  pastedCallSchema,
  rawAnswerSchema,
  standingSchema,
  triedSchema,
  tryProviderSchema,
} from "./tries";

const extraName = z.string().regex(/^[\w.-]{1,80}$/, "is not a name of letters, digits, dots and hyphens");
const extras = z.record(extraName, secretSchema);
/** Values of a provider's own, by name; `$NAME` in one is read from the environment. They are shown, so none is a secret. */
const ownValues = z.record(extraName, z.string().max(500));
/** The command that signs each request; null for none. */
const signing = commandSchema.nullable();
const proxy = z.url({ protocol: /^https?$/, error: "is not the address of an HTTP proxy" }).nullable();
const caFile = z.string().max(1_000).nullable();
const retries = z.int().min(0).max(5);
/** Calls that are made at once; null for any number. */
const atOnce = z.int().min(1).max(1_000).nullable();

/** Characters of an answer that is kept as a case, and how many are kept. */
export const longestCase = 200_000;
export const mostCases = 20;

/** Answers that a profile has to read, each as it was pasted, perhaps with its HTTP headers. */
const cases = z.array(z.string().min(1).max(longestCase)).max(mostCases);

const providerSchema = z.object({
  id: z.string(),
  /** The name by which revisions know it. */
  slug: z.string(),
  name: z.string(),
  address: z.string(),
  /** The wire profile, as it was written. */
  profile: z.json(),
  shape: z.string(),
  credential: shownCredentialSchema,
  /** Extra headers of every call; `$NAME` and `<extra:name>` in them are filled in. */
  headers: headersSchema,
  /** Secrets beside the credential, for `<extra:name>` in the profile and in headers. */
  extras: z.record(z.string(), shownSecret),
  /** Values for `<value:name>` in the address and in the profile. */
  values: ownValues,
  signing: z.string().nullable(),
  limits: limitsSchema,
  retries: z.int(),
  /** Whether what it answers to the bench is recorded. */
  records: z.boolean(),
  atOnce,
  proxy: z.string().nullable(),
  /** Whether a name and a password for the proxy are kept, sealed. */
  hasProxyLogin: z.boolean(),
  caFile: z.string().nullable(),
  models: z.array(
    modelSchema.required({ isWindowGuessed: true, isOn: true }).extend({
      calibration: calibrationSchema,
      places: piecePlacesSchema,
      ownSettings: z.array(ownSettingSchema),
      version: modelVersionSchema.nullable(),
    }),
  ),
  /** How many apps name it. */
  apps: z.int(),
  probe: probeReportSchema.nullable(),
});
export type Provider = z.infer<typeof providerSchema>;

const providerName = z.string().trim().min(1, "is empty").max(60, "has more than 60 characters");

export const wireProviderSchema = z.strictObject({
  name: providerName,
  address,
  /** The name of a shipped wire profile, or a profile. */
  profile: z.union([z.string(), z.record(z.string(), z.json())]),
  credential: credentialSchema,
  headers: headersSchema.optional(),
  extras: extras.optional(),
  values: ownValues.optional(),
  signing: signing.optional(),
  cases: cases.optional(),
  models: z.array(modelSchema).max(500),
});
export type WireProvider = z.infer<typeof wireProviderSchema>;

const changeProviderSchema = z.strictObject({
  name: providerName.optional(),
  address: address.optional(),
  profile: z.record(z.string(), z.json()).optional(),
  credential: credentialSchema.optional(),
  headers: headersSchema.optional(),
  extras: extras.optional(),
  values: ownValues.optional(),
  signing: signing.optional(),
  limits: limitsSchema.optional(),
  retries: retries.optional(),
  records: z.boolean().optional(),
  atOnce: atOnce.optional(),
  proxy: proxy.optional(),
  caFile: caFile.optional(),
  /** All of its models. */
  models: z.array(modelSchema).optional(),
});
export type ChangeProvider = z.infer<typeof changeProviderSchema>;

/** A simulated provider that runs on this machine and is not wired yet. */
export const offerSchema = wireProviderSchema;

const named = jsonBody(z.strictObject({ name: providerName }));
const ofModel = jsonBody(z.strictObject({ model: z.string() }));

/** Failures of a call that the bench makes of a provider. */
const failures = [
  "misconfigured",
  "unauthorised",
  "not-allowed",
  "unknown-model",
  "unreachable",
  "timed-out",
  "rate-limited",
  "overloaded",
  "bad-reply",
] as const;

export const providers = {
  list: call({
    method: "GET",
    path: "/api/bench/providers",
    by: "bench",
    does: "Lists all providers.",
    answers: { 200: json(z.object({ providers: z.array(providerSchema) })) },
  }),
  wire: call({
    method: "POST",
    path: "/api/bench/providers",
    by: "bench",
    does: "Wires a provider.",
    body: jsonBody(wireProviderSchema),
    answers: { 201: json(providerSchema) },
    problems: ["conflict"],
  }),
  offers: call({
    method: "GET",
    path: "/api/bench/offers",
    by: "bench",
    does: "Lists simulated providers that run here and are not wired.",
    answers: { 200: json(z.object({ offers: z.array(offerSchema) })) },
  }),
  change: call({
    method: "PATCH",
    path: "/api/bench/providers/{id}",
    by: "bench",
    does: "Changes what is given of a provider.",
    body: jsonBody(changeProviderSchema),
    answers: { 200: json(providerSchema) },
    problems: ["not-found", "conflict"],
  }),
  delete: call({
    method: "DELETE",
    path: "/api/bench/providers/{id}",
    by: "bench",
    does: "Deletes a provider that no app speaks through.",
    answers: { 204: nothing },
    problems: ["not-found", "conflict"],
  }),
  copy: call({
    method: "POST",
    path: "/api/bench/providers/{id}/copy",
    by: "bench",
    does: "Copies a provider under another name.",
    body: named,
    answers: { 201: json(providerSchema) },
    problems: ["not-found", "conflict"],
  }),
  cases: call({
    method: "GET",
    path: "/api/bench/providers/{id}/cases",
    by: "bench",
    does: "Lists the answers that a provider's profile has to read.",
    answers: { 200: json(z.object({ cases })) },
    problems: ["not-found"],
  }),
  setCases: call({
    method: "PUT",
    path: "/api/bench/providers/{id}/cases",
    by: "bench",
    does: "Keeps answers that a provider's profile has to read, and no others.",
    body: jsonBody(z.strictObject({ cases })),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  standing: call({
    method: "GET",
    path: "/api/bench/providers/{id}/standing",
    by: "bench",
    does: "Asks a provider for its models, which tells whether it answers.",
    answers: { 200: json(standingSchema) },
    problems: ["not-found"],
  }),
  switchOn: call({
    method: "POST",
    path: "/api/bench/providers/{id}/switch-on",
    by: "bench",
    does: "Switches a model on at its provider.",
    body: ofModel,
    answers: { 204: nothing },
    problems: [...failures, "not-found", "conflict"],
  }),
  lastAnswer: call({
    method: "GET",
    path: "/api/bench/providers/{id}/try",
    by: "bench",
    does: "Reads the last whole answer that is kept of a provider.",
    answers: { 200: json(lastAnswerSchema) },
    problems: ["not-found"],
  }),
  try: call({
    method: "POST",
    path: "/api/bench/providers/{id}/try",
    by: "bench",
    does: "Asks a provider something, apart from any conversation.",
    body: jsonBody(tryProviderSchema),
    answers: { 200: json(triedSchema) },
    problems: [...failures, "not-found"],
  }),
  probe: call({
    method: "POST",
    path: "/api/bench/providers/{id}/probe",
    by: "bench",
    does: "Calls a provider in steps, and tells each as it is done.",
    body: ofModel,
    answers: { 200: lines(probeStepSchema) },
    problems: ["not-found"],
  }),
  fault: call({
    method: "GET",
    path: "/api/bench/providers/{id}/fault",
    by: "bench",
    does: "Says what a simulated provider does wrong on purpose.",
    answers: { 200: json(faultSchema) },
    problems: ["not-found"],
  }),
  setFault: call({
    method: "PUT",
    path: "/api/bench/providers/{id}/fault",
    by: "bench",
    does: "Has a simulated provider do something wrong.",
    body: jsonBody(faultPlanSchema),
    answers: { 204: nothing },
    problems: ["not-found", "conflict"],
  }),
  clearFault: call({
    method: "DELETE",
    path: "/api/bench/providers/{id}/fault",
    by: "bench",
    does: "Has a simulated provider do nothing wrong any more.",
    answers: { 204: nothing },
    problems: ["not-found", "conflict"],
  }),
  callPasted: call({
    method: "POST",
    path: "/api/bench/pasted-call",
    by: "bench",
    does: "Makes a pasted request as it stands.",
    body: jsonBody(pastedCallSchema),
    answers: { 200: json(rawAnswerSchema) },
  }),
};
