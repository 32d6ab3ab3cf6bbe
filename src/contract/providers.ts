import { z } from "zod";
import { mostTokens } from "@/core/tokens/count";
import { problemSchema } from "./replies";

/** What a model can do beside text. */
export const abilities = ["thought", "pictures", "tools", "json"] as const;
export type Ability = (typeof abilities)[number];

export const modelSchema = z.strictObject({
  name: z.string().trim().min(1, "is empty").max(200),
  /** Tokens that request and reply may have together. */
  window: z.int().min(1).max(mostTokens),
  /** Per million tokens. */
  price: z.strictObject({
    input: z.number().min(0).max(1_000_000_000),
    output: z.number().min(0).max(1_000_000_000),
    currency: z.string().length(3),
  }),
  /** Whether apps are offered it. */
  isOn: z.boolean().optional(),
  can: z.array(z.enum(abilities)).optional(),
});
export type Model = z.infer<typeof modelSchema>;

/** Reported tokens of a model per estimated token, and from how many calls it was learned. */
const calibration = z.object({ ratio: z.number(), calls: z.int() });

/** Milliseconds that a provider may take: to connect, to the first event, between events, in all. */
export const limitsSchema = z.strictObject({
  connect: z.int().min(100).max(600_000),
  first: z.int().min(100).max(600_000),
  between: z.int().min(100).max(600_000),
  all: z.int().min(100).max(3_600_000),
});
export type Limits = z.infer<typeof limitsSchema>;

/** The limits of a provider until others are set. */
export const usualLimits: Limits = { connect: 5_000, first: 60_000, between: 30_000, all: 300_000 };

const address = z.url({ protocol: /^https?$/, error: "is not an http or https address" }).max(2_000);

/** Text that can stand in a header: one line of the characters that HTTP allows there (RFC 9110, 5.5). */
const line = z
  .string()
  .regex(/^[\t\x20-\x7e\x80-\xff]*$/, "holds a line break or a character that no header can carry");
const variable = z
  .string()
  .regex(/^[A-Z_][A-Z0-9_]*$/i, "is not the name of an environment variable, such as REEDBED_KEY");

/** A secret as it comes in: by the name of a variable, typed once, or left as it is. */
export const secretSchema = z.union([
  z.strictObject({ variable }),
  z.strictObject({ value: line.min(1, "is empty").max(20_000) }),
  z.strictObject({ sealed: z.literal(true) }),
]);
export type Secret = z.infer<typeof secretSchema>;

/** A secret as it is shown: never itself. */
const shownSecret = z.union([
  z.strictObject({ variable: z.string(), isSet: z.boolean() }),
  z.strictObject({ sealed: z.literal(true) }),
]);
export type ShownSecret = z.infer<typeof shownSecret>;

function credentialOf<S extends z.ZodType>(secret: S) {
  return z.discriminatedUnion("kind", [
    z.strictObject({ kind: z.literal("none") }),
    /** A fixed key; the profile says where it goes. */
    z.strictObject({ kind: z.literal("key"), secret }),
    /** A name and a password, which go as RFC 7617 has it. */
    z.strictObject({ kind: z.literal("basic"), user: line.max(500), secret }),
    /** A token that is fetched with an id and a secret, and kept until shortly before it ends. */
    z.strictObject({
      kind: z.literal("token"),
      /** Absolute, or a path at the provider. */
      url: z
        .string()
        .max(2_000)
        .refine(
          (url) => URL.canParse(url, "http://localhost") && /^(?:https?:\/\/|\/)/.test(url),
          "is neither an address nor a path",
        ),
      send: z.enum(["form", "json"]),
      /** What is sent, with <id> and <secret> in it. */
      body: z.record(z.string(), z.string()),
      id: secret,
      secret,
      /** JSONPaths of the token and of the seconds that it is good for. */
      token: z.string(),
      expires: z.string().optional(),
    }),
    /** A token that a command prints. */
    z.strictObject({
      kind: z.literal("command"),
      command: z.string().trim().min(1, "is empty").max(2_000),
      /** Seconds that it is kept. */
      keepFor: z.int().min(0).max(86_400),
    }),
  ]);
}
export const credentialSchema = credentialOf(secretSchema);
export type Credential = z.infer<typeof credentialSchema>;
export const shownCredentialSchema = credentialOf(shownSecret);
export type ShownCredential = z.infer<typeof shownCredentialSchema>;

const headerName = z.string().regex(/^[\w!#$%&'*+.^`|~-]+$/, "is not the name of a header");
const headers = z.record(headerName, line.max(4_000));
/** Headers as they are shown, with marks in the places of secrets. */
export const shownHeadersSchema = z.record(
  headerName,
  z
    .string()
    .max(4_000)
    .regex(/^[^\r\n\0]*$/, "holds a line break"),
);
const extraName = z.string().regex(/^[\w.-]{1,80}$/, "is not a name of letters, digits, dots and hyphens");
const extras = z.record(extraName, secretSchema);
const proxy = z.url({ protocol: /^https?$/, error: "is not the address of an HTTP proxy" }).nullable();
const caFile = z.string().max(1_000).nullable();
const retries = z.int().min(0).max(5);

/** One step of a probe. */
export const probeStepSchema = z.object({
  step: z.string(),
  outcome: z.enum(["good", "bad", "left out"]),
  /** What was found, in a few words. */
  found: z.string(),
  /** Milliseconds. */
  ms: z.number(),
  advice: z.string().optional(),
});
export type ProbeStep = z.infer<typeof probeStepSchema>;
export const probeReportSchema = z.object({ at: z.int(), model: z.string(), steps: z.array(probeStepSchema) });
export type ProbeReport = z.infer<typeof probeReportSchema>;

export const providerSchema = z.object({
  id: z.string(),
  name: z.string(),
  address: z.string(),
  /** The wire profile, as it was written. */
  profile: z.json(),
  shape: z.string(),
  credential: shownCredentialSchema,
  /** Extra headers of every call; `$NAME` and `<extra:name>` in them are filled in. */
  headers,
  /** Secrets beside the credential, for `<extra:name>` in the profile and in headers. */
  extras: z.record(z.string(), shownSecret),
  limits: limitsSchema,
  retries: z.int(),
  proxy: z.string().nullable(),
  /** Whether a name and a password for the proxy are kept, sealed. */
  hasProxyLogin: z.boolean(),
  caFile: z.string().nullable(),
  models: z.array(modelSchema.required().extend({ calibration })),
  /** How many apps speak through it. */
  apps: z.int(),
  probe: probeReportSchema.nullable(),
});
export type Provider = z.infer<typeof providerSchema>;
export const providersSchema = z.object({ providers: z.array(providerSchema) });

const providerName = z.string().trim().min(1, "is empty").max(60, "has more than 60 characters");

export const wireProviderSchema = z.strictObject({
  name: providerName,
  address,
  /** The name of a shipped wire profile, or a profile. */
  profile: z.union([z.string(), z.record(z.string(), z.json())]),
  credential: credentialSchema,
  headers: headers.optional(),
  extras: extras.optional(),
  models: z.array(modelSchema).max(500),
});
export type WireProvider = z.infer<typeof wireProviderSchema>;

export const changeProviderSchema = z.strictObject({
  name: providerName.optional(),
  address: address.optional(),
  profile: z.record(z.string(), z.json()).optional(),
  credential: credentialSchema.optional(),
  headers: headers.optional(),
  extras: extras.optional(),
  limits: limitsSchema.optional(),
  retries: retries.optional(),
  proxy: proxy.optional(),
  caFile: caFile.optional(),
  /** All of its models. */
  models: z.array(modelSchema).optional(),
});
export type ChangeProvider = z.infer<typeof changeProviderSchema>;

export const copyProviderSchema = z.strictObject({ name: providerName });

/** A model as its provider lists it. */
export const listedModelSchema = z.object({
  name: z.string(),
  /** Whether it is switched on there; null where the provider does not say. */
  isOn: z.boolean().nullable(),
  window: z.int().nullable(),
});
export type ListedModel = z.infer<typeof listedModelSchema>;

/** What a provider said when it was asked for its models. */
export const standingSchema = z.object({
  /** Milliseconds until it answered; null when it did not. */
  answeredMs: z.number().nullable(),
  models: z.array(listedModelSchema),
  problem: problemSchema.nullable(),
});
export type Standing = z.infer<typeof standingSchema>;

export const switchOnSchema = z.strictObject({ model: z.string() });

/** A raw answer, with when its parts arrived. */
export const rawAnswerSchema = z.object({
  status: z.int().nullable(),
  contentType: z.string(),
  headers: z.record(z.string(), z.string()),
  text: z.string(),
  /** Milliseconds after the start and the number of bytes of each arrival. */
  arrivals: z.array(z.tuple([z.number(), z.int()])),
  ms: z.number(),
  problem: problemSchema.nullable(),
});
export type RawAnswer = z.infer<typeof rawAnswerSchema>;

/** Asks a provider something, apart from any conversation. */
export const tryProviderSchema = z.strictObject({
  model: z.string(),
  message: z.string().min(1).max(10_000),
  stream: z.boolean(),
});
export const triedSchema = z.object({
  request: z.object({
    method: z.string(),
    url: z.string(),
    headers: z.record(z.string(), z.string()),
    body: z.string(),
  }),
  answer: rawAnswerSchema,
});
export type Tried = z.infer<typeof triedSchema>;

/** The last answer of a provider that is kept: of a dispatch or of a trial call. */
export const lastAnswerSchema = z.object({
  last: z
    .object({
      at: z.int(),
      model: z.string(),
      contentType: z.string(),
      status: z.int(),
      text: z.string(),
      arrivals: z.int(),
      ms: z.number(),
    })
    .nullable(),
});
export type LastAnswer = NonNullable<z.infer<typeof lastAnswerSchema>["last"]>;

/** A request as it was pasted, to be made as it stands; `$NAME` in it is read from the environment. */
export const pastedCallSchema = z.strictObject({
  method: z.enum(["GET", "POST", "PUT"]),
  url: address,
  headers: z.array(z.tuple([headerName, line])).max(200),
  user: line.optional(),
  body: z.string(),
  /** What is secret in it: taken out of the answer, should it be echoed. */
  secrets: z.array(z.string().max(20_000)).max(100).optional(),
});
export type PastedCall = z.infer<typeof pastedCallSchema>;

/** A fault plan, as stand-ins take it. */
export const faultPlanSchema = z.strictObject({
  fault: z.string(),
  ms: z.int().min(0).optional(),
  after: z.int().min(0).optional(),
  status: z.int().min(400).max(599).optional(),
  retryAfter: z.number().min(0).optional(),
  /** Where a redirect leads. */
  to: z.string().max(2_000).optional(),
  calls: z.int().min(1).optional(),
});
export type FaultPlan = z.infer<typeof faultPlanSchema>;
/** Whether a provider is a stand-in, and what it does wrong now. */
export const faultSchema = z.object({ isStandIn: z.boolean(), plan: faultPlanSchema.nullable() });

/** A simulated provider that runs on this machine and is not wired yet. */
export const offerSchema = wireProviderSchema;
export const offersSchema = z.object({ offers: z.array(offerSchema) });

/** What is missing before an app can answer. */
export const preflightSchema = z.object({
  items: z.array(
    z.object({
      /** Whether nothing can be answered until it is put right. */
      blocks: z.boolean(),
      what: z.string(),
      next: z.string(),
      /** Where it is put right. */
      where: z.enum(["providers", "model", "prompt", "terminal"]),
    }),
  ),
});
export type Preflight = z.infer<typeof preflightSchema>;
