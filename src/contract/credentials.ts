import { z } from "zod";
import { isAddress } from "@/core/provider/address";
import { argumentsIn, NotArguments } from "@/core/wire/arguments";

/** An address, in which values of the provider's own may stand as `<value:name>`. */
export const address = z.string().max(2_000).refine(isAddress, { error: "is not an http or https address" });

/** Text that can stand in a header: one line of the characters that HTTP allows there (RFC 9110, 5.5). */
export const line = z
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
export const shownSecret = z.union([
  z.strictObject({ variable: z.string(), isSet: z.boolean() }),
  /** `isSample` where it is the made-up key that a stand-in gave along. */
  z.strictObject({ sealed: z.literal(true), isSample: z.literal(true).optional() }),
]);
export type ShownSecret = z.infer<typeof shownSecret>;

/** A program and its arguments; there is no shell. */
export const commandSchema = z
  .string()
  .trim()
  .min(1, "is empty")
  .max(2_000)
  .superRefine((text, context) => {
    try {
      argumentsIn(text);
    } catch (error) {
      if (!(error instanceof NotArguments)) throw error;
      context.addIssue({ code: "custom", message: error.message });
    }
  });

function credentialOf<S extends z.ZodType>(secret: S, command: z.ZodString) {
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
      command,
      /** Seconds that it is kept. */
      keepFor: z.int().min(0).max(86_400),
    }),
  ]);
}
export const credentialSchema = credentialOf(secretSchema, commandSchema);
export type Credential = z.infer<typeof credentialSchema>;
export const shownCredentialSchema = credentialOf(shownSecret, z.string());
export type ShownCredential = z.infer<typeof shownCredentialSchema>;

export const headerName = z.string().regex(/^[\w!#$%&'*+.^`|~-]+$/, "is not the name of a header");
export const headersSchema = z.record(headerName, line.max(4_000));
/** Headers as they are shown, with marks in the places of secrets. */
export const shownHeadersSchema = z.record(
  headerName,
  z
    .string()
    .max(4_000)
    .regex(/^[^\r\n\0]*$/, "holds a line break"),
);
