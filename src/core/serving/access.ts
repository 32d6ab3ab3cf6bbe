import { z } from "zod";
import { largestPicture } from "../pictures/picture";
import { type Problem, problem } from "../problem/problem";
import { type Told, tellable } from "../reply/told";
import { type Content, type Settings, settingsSchema } from "../revision/content";
import { largestDocument } from "../sources/origin";

/** An origin (RFC 6454) as a browser names it: scheme, host and port, and nothing else; never `null`. */
export const originSchema = z.string().max(300).refine(isOrigin, {
  error: "is no origin: write scheme, host and port alone, such as http://localhost:5173",
});

function isOrigin(text: string): boolean {
  if (!URL.canParse(text)) return false;
  const { protocol, origin } = new URL(text);
  return (protocol === "http:" || protocol === "https:") && origin === text;
}

/** The settings that a caller may be let set. */
export const callerSettings = ["temperature", "topP", "topK", "maxOutput", "stop", "seed"] as const;

/** What callers bring along: tools, the schema of a reply. */
export const broughtKinds = ["tools", "schema"] as const;

/** From where callers send pictures and documents: the visitors' page, and all that calls the endpoints. */
export const sentFrom = ["page", "calls"] as const;

/** Which addresses callers may name as documents. */
export const documentAddresses = ["none", "public", "any"] as const;

/** Calls a minute; null for any number. */
const aMinute = z.int().min(1).max(1_000_000).nullable();

/** Who may call an app, from where, and how much. */
export const accessSchema = z.strictObject({
  /** Nobody; whoever is on this machine, or has a token; only who has a token. */
  callers: z.enum(["nobody", "machine", "token"]).default("machine"),
  /** Whether the visitors' page is open. */
  page: z.boolean().default(true),
  /** The origins whose pages may call, and may show the visitors' page in a frame. */
  origins: z.array(originSchema).max(50).default([]),
  limits: z
    .strictObject({
      visitor: aMinute.default(20),
      address: aMinute.default(120),
      app: aMinute.default(600),
      /** What all calls of a day may cost, in the currency of the bench; null for any price. */
      day: z.number().min(0).max(1_000_000_000).nullable().default(null),
      /** Characters of one message. */
      message: z.int().min(1).max(1_000_000).default(20_000),
    })
    .prefault({}),
  /** What callers are told of a reply beside its words; visitors of the page are told what its look shows. */
  shows: z.array(z.enum(tellable)).default([...tellable]),
  /** Models that a caller may choose beside the app's own. */
  models: z
    .array(z.strictObject({ provider: z.string().max(100), model: z.string().max(200) }))
    .max(50)
    .default([]),
  /** Settings that a caller may choose. */
  settings: z.array(z.enum(callerSettings)).default([]),
  /** What a caller may bring along with a question: tools that it answers itself, a schema that the reply is to fit. */
  brings: z.array(z.enum(broughtKinds)).default([...broughtKinds]),
  /** Pictures that callers may send, where the model sees them. */
  pictures: z
    .strictObject({
      from: z.array(z.enum(sentFrom)).default(["calls"]),
      /** Of one message. */
      most: z.int().min(1).max(10).default(4),
      /** Bytes of one. */
      largest: z
        .int()
        .min(1)
        .max(largestPicture)
        .default(5 * 1024 * 1024),
    })
    .prefault({}),
  /** Documents of their own that callers may be answered from. */
  documents: z
    .strictObject({
      from: z.array(z.enum(sentFrom)).default([]),
      /** Of one visitor. */
      most: z.int().min(1).max(50).default(5),
      /** Bytes of one. */
      largest: z
        .int()
        .min(1)
        .max(largestDocument)
        .default(10 * 1024 * 1024),
      /** Which addresses are called for them: none, those of the internet, or those of this machine and its network, too. */
      addresses: z.enum(documentAddresses).default("public"),
    })
    .prefault({}),
  /** Whether a caller may send a system message, which goes after the app's own prompt. */
  system: z.boolean().default(false),
});
export type Access = z.infer<typeof accessSchema>;

/** What a caller is told: on the page what its look shows, and never which model answers. */
export function toldTo(
  by: "page" | "endpoints",
  { shows }: Pick<Access, "shows">,
  look: { shows: Record<"thoughts" | "tokens" | "cost", boolean> },
): Told {
  if (by === "page")
    return {
      thoughts: look.shows.thoughts,
      counts: look.shows.tokens,
      price: look.shows.cost,
      model: false,
      tools: false,
    };
  return {
    thoughts: shows.includes("thoughts"),
    counts: shows.includes("counts"),
    price: shows.includes("price"),
    model: shows.includes("model"),
    tools: shows.includes("tools"),
  };
}

/** What a caller may ask to be different for one reply. */
export const withSchema = z
  .strictObject({
    /** The name of a model; of an allowed provider where several have one of that name. */
    model: z.string().max(200).optional(),
    provider: z.string().max(100).optional(),
    settings: settingsSchema.optional(),
    /** What goes after the app's own prompt, for this reply. */
    system: z.string().max(20_000, "has more than 20000 characters").optional(),
    /** The preview, instead of the live revision. */
    preview: z.literal(true).optional(),
  })
  .meta({ id: "With" });
export type With = z.infer<typeof withSchema>;

/** The content of a revision as a caller wants it, or why it can't be had. */
export type Wanted = { ok: true; content: Content } | { ok: false; problem: Problem };

/** Content with what a caller asked for, as far as the developer allows it; the same one where nothing was. */
export function wantedContent(content: Content, access: Access, asked: With): Wanted {
  const settings = settingsFor(content.settings, access, asked.settings ?? {});
  if (!settings.ok) return settings;
  const { system } = asked;
  if (system !== undefined && !access.system)
    return {
      ok: false,
      problem: problem("forbidden", "Callers may send no system message here: the app's own prompt goes first.", {
        advice: "Leave it out, or have whoever runs the app allow it in Serve.",
      }),
    };
  const said = system ? withSystem(content, system) : content;
  const changed = asked.settings ? { ...said, settings: settings.value } : said;
  const { model, provider } = asked;
  if (model === undefined && provider === undefined) return { ok: true, content: changed };
  const own = { provider: content.provider, model: content.model };
  const all = [own, ...access.models];
  const chosen = all.find(
    (each) => (model === undefined || each.model === model) && (provider === undefined || each.provider === provider),
  );
  if (!chosen) {
    const names = [...new Set(all.map((each) => each.model))].join(", ");
    const detail = `Callers may not choose ${[model, provider].filter(Boolean).join(" on ")} here.`;
    return { ok: false, problem: problem("forbidden", detail, { advice: `Choose one of ${names}.` }) };
  }
  return { ok: true, content: chosen === own ? changed : { ...changed, ...chosen, fallbacks: undefined } };
}

/** The name under which a caller's system message is filled into the prompt, so that nothing in it is filled. */
const callerSystem = "callerSystem";

function withSystem(content: Content, system: string): Content {
  return {
    ...content,
    prompt: `${content.prompt}\n\n{{${callerSystem}}}`,
    variables: { ...content.variables, [callerSystem]: system },
  };
}

function settingsFor(
  own: Settings,
  access: Access,
  asked: Settings,
): { ok: true; value: Settings } | { ok: false; problem: Problem } {
  const refused = Object.keys(asked).filter((name) => !access.settings.some((allowed) => allowed === name));
  if (refused.length === 0) return { ok: true, value: { ...own, ...asked } };
  const advice =
    access.settings.length === 0
      ? "Leave out `settings`: this app lets callers choose none."
      : `Choose among ${access.settings.join(", ")}.`;
  return {
    ok: false,
    problem: problem("forbidden", `Callers may not choose ${refused.join(", ")} here.`, { advice }),
  };
}
