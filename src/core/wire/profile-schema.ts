import { z } from "zod";
import { providerKinds } from "../problem/problem";
import { endReasons } from "../reply/events";
import { framingNames } from "./framing/framings";
import { ownSettingSchema } from "./own-settings";
import { waitUnits } from "./reading/wait";

/** The placeholders that a request template may hold. */
export const placeholders = [
  "model",
  "modelPath",
  "key",
  "stream",
  "system",
  "messages",
  "earlier",
  "newest",
  "role",
  "text",
  "pieces",
  "kind",
  "pictures",
  "type",
  "bytes",
  "address",
  "width",
  "height",
  "calls",
  "results",
  "call",
  "name",
  "arguments",
  "argumentsText",
  "result",
  "temperature",
  "topP",
  "topK",
  "maxOutput",
  "stop",
  "seed",
  "takes",
  "tools",
  "description",
  "parameters",
  "toolChoice",
  "chosenTool",
  "schema",
  "carry",
  "texts",
] as const;

const kind = z.enum(providerKinds);
const path = z
  .string()
  .max(1_000)
  .describe("A JSONPath: from $, the document, or from @, the element that the rule goes through");
const scalar = z.union([z.string(), z.number(), z.boolean(), z.null()]);
const template = z.json();

const conditionParts = z.strictObject({
  event: z.string().optional().describe("The name of the event"),
  at: path.optional().describe("A path at which something has to stand"),
  is: z
    .union([scalar, z.array(scalar).min(1)])
    .optional()
    .describe("The value that has to stand there, or a list of values of which one has to"),
  remembered: z.string().optional().describe("The word that was remembered for this block"),
});
const condition = conditionParts
  .extend({
    not: conditionParts.omit({ remembered: true }).optional().describe("What must not hold"),
  })
  .describe("All that it names has to hold");

const place = z
  .strictObject({ header: z.string().optional(), at: path.optional() })
  .describe("A header of the answer by its name, or a path in its body");
const places = z
  .union([
    path,
    place,
    z
      .array(z.union([path, place]))
      .min(1)
      .max(20),
  ])
  .describe("A path, a header, or several of both: the first that has a value counts");

const rule = z
  .strictObject({
    when: condition.optional(),
    raw: z
      .boolean()
      .optional()
      .describe(
        "Whether it reads the data of events as it stands, which is then $: every event of its name, or without one all that is no object and no list",
      ),
    each: path.optional().describe("Goes through every value at this path; paths that begin with @ start there"),
    take: path.optional().describe("Which take of the reply this belongs to, counted from 0"),
    block: path.optional().describe("Which block of the take this belongs to"),
    remember: path.optional().describe("A word to remember for the block, for conditions of later events"),
    text: path.optional().describe("Text of the reply; several values are joined"),
    thought: path.optional().describe("Reasoning that is shown apart from the reply"),
    soFar: z.boolean().optional().describe("Whether text and thought hold all so far, instead of what is new"),
    tool: z
      .strictObject({
        each: path
          .optional()
          .describe("Goes through every call at this path, from @; paths of the tool that begin with @ start there"),
        block: path.optional().describe("What tells calls apart, where it stands in each"),
        id: path.optional(),
        name: path.optional(),
        arguments: path.optional().describe("A fragment of the arguments' JSON, or the arguments as a value"),
        soFar: z.boolean().optional().describe("Whether the arguments hold all so far, instead of what is new"),
      })
      .optional()
      .describe("A tool call"),
    finish: path.optional().describe("This API's word for why the reply ended"),
    usage: z
      .strictObject({
        input: places.optional(),
        output: places.optional(),
        cachedInput: places.optional().describe("Input that was in the provider's cache"),
        cacheWrite: places.optional().describe("Input that the provider put into its cache"),
        cacheIsBeside: z
          .boolean()
          .optional()
          .describe("Whether `input` leaves out what was in the cache or put there; else it holds them"),
        thought: places.optional(),
        adds: z.boolean().optional().describe("Whether counts of several events are added up; else the last counts"),
      })
      .optional(),
    carry: path.optional().describe("A value that goes back to the API with the next call, as <carry>"),
    version: path.optional().describe("What the provider calls the model that answers"),
    pictures: z
      .strictObject({
        each: path.describe("Goes through every picture at this path; its other path starts there, from @"),
        bytes: path.describe("Its bytes in base64, with `data:…;base64,` before them or without"),
      })
      .optional()
      .describe("Pictures of the reply"),
    sources: z
      .strictObject({
        each: path.describe("Goes through every source at this path; its other paths start there, from @"),
        title: path.optional(),
        address: path.optional(),
        text: path.optional().describe("What is quoted of it"),
      })
      .optional()
      .describe("Sources that an answer names for what it says"),
  })
  .describe("What to look for in an event or a whole answer, and what to take from it");

const wait = place.extend({
  unit: z
    .enum(waitUnits)
    .default("s")
    .describe("Of a bare number; a text with units, a duration and a date say their own"),
});

export const requestSchema = z.strictObject({
  method: z.enum(["POST", "PUT", "GET"]),
  path: z.string().startsWith("/").describe("Joined to the provider's address; values in it are percent-encoded"),
  streamPath: z.string().startsWith("/").optional().describe("The path when streaming, where it is another"),
  query: z.record(z.string(), z.string()).optional(),
  headers: z.record(z.string(), z.string()),
  body: template.optional(),
  bodyAs: z
    .enum(["json", "form"])
    .default("json")
    .describe("How the body is written: as JSON, or its members as a form, lists by repeating their name"),
  defaults: z
    .strictObject({
      temperature: z.number().optional(),
      topP: z.number().optional(),
      topK: z.number().optional(),
      maxOutput: z.int().optional(),
      seed: z.int().optional(),
    })
    .optional()
    .describe("Settings that this API can't do without, for apps that set none"),
});

const override = z.strictObject({
  name: z.string().max(200).describe("A model's name; * stands for any text"),
  request: z.record(z.string(), z.json()).describe("A JSON Merge Patch (RFC 7396) of the request"),
});

/** A wire profile: how one provider's HTTP API is spoken, as data. See docs/wire-profiles.md. */
export const profileSchema = z.strictObject({
  $schema: z.string().optional(),
  profile: z.literal(1),
  shape: z.string().min(1).describe("What the shape of this API is called"),
  request: requestSchema.describe("The request, as templates"),
  models: z
    .strictObject({
      path: z.string().startsWith("/"),
      list: path.describe("Every model"),
      name: path.describe("Its name, from @"),
      isOn: path.optional().describe("Whether it is switched on, from @"),
      window: path.optional().describe("The tokens of its context window, from @"),
      switchOn: z
        .strictObject({
          method: z.enum(["POST", "PUT", "PATCH"]),
          path: z.string().startsWith("/"),
          body: template.optional(),
        })
        .optional()
        .describe("The call that switches a model on"),
    })
    .optional()
    .describe("Where the models are listed"),
  embeddings: z
    .strictObject({
      method: z.enum(["POST", "PUT"]).default("POST"),
      path: z.string().startsWith("/"),
      headers: z
        .record(z.string(), z.string())
        .optional()
        .describe("Its headers, where they are not those of the request"),
      body: template.describe('With {"<each>": "texts", "as": "<text>"} in the place of the texts'),
      each: path.describe("Goes through what is told of each text, in their order"),
      vector: path.default("@").describe("Its numbers, from @"),
      place: path
        .optional()
        .describe("Which of the texts it is of, counted from 0, from @, where they may come in another order"),
      input: places.optional().describe("Tokens of all texts"),
    })
    .optional()
    .describe("The call that makes vectors of texts, many in one"),
  overrides: z.array(override).optional().describe("What is different for some models; the first that fits counts"),
  roles: z
    .strictObject({
      system: z.string().optional(),
      visitor: z.string(),
      app: z.string(),
      tool: z.string().optional(),
      prompt: z
        .enum(["message", "field", "first"])
        .default("message")
        .describe("How the system prompt goes: a first message, <system>, or before the first visitor's message"),
      merge: z.boolean().default(false).describe("Whether neighbours of one role are made one message"),
      begin: z
        .union([z.literal("any"), z.strictObject({ say: z.string().min(1) })])
        .default("any")
        .describe("Whether the first message may be the app's, or what is said before it where it may not"),
      goOn: z
        .union([z.literal("prefix"), z.strictObject({ ask: z.string().min(1) })])
        .default("prefix")
        .describe("How a reply is gone on with: from its beginning as the last message, or by asking for it"),
      results: z
        .enum(["each", "together"])
        .default("each")
        .describe("Whether the answers of tools go as a message each, or those of one round as one message"),
    })
    .refine(({ prompt, system }) => prompt !== "message" || system !== undefined, {
      error: "is missing: the prompt goes as a message, and a message has a role",
      path: ["system"],
    })
    .describe("What this API calls those who speak"),
  pieces: z
    .strictObject({
      picture: z.enum(["refuse", "leave-out"]).default("refuse"),
      tool: z.enum(["refuse", "tell"]).default("refuse"),
    })
    .prefault({})
    .describe(
      "What becomes of pictures and of calls of tools where the request has no place for them: the call is refused, pictures are left out, calls of tools are told in words",
    ),
  values: z
    .array(
      z.strictObject({
        name: z.string().regex(/^[\w.-]{1,60}$/, "is no name of a value"),
        says: z.string().max(200).optional().describe("What it is"),
        default: z.string().min(1).max(500).optional().describe("What it is where the provider gives no other"),
      }),
    )
    .max(20)
    .optional()
    .describe("Named values of the provider's own, such as a region: <value:name> in the address and in the request"),
  settings: z
    .array(ownSettingSchema)
    .max(20)
    .optional()
    .describe("Settings that this API has of its own: <own:name> in the request, a word in the Model station"),
  answer: z
    .strictObject({
      stream: z
        .strictObject({
          framing: z.enum(framingNames),
          types: z.array(z.string()).optional().describe("Content types of the stream, where they are unusual"),
          number: path
            .optional()
            .describe(
              "Where a number counts the events up, or `id` for the ids of server-sent events; one that was seen is left out",
            ),
          rules: z.array(rule).default([]),
          end: z
            .union([
              z.literal("close"),
              z.strictObject({ sentinel: z.string().min(1).describe("The data of the event that ends the stream") }),
              z.strictObject({ when: condition }),
            ])
            .describe("What ends the stream"),
        })
        .optional(),
      whole: z
        .strictObject({ framing: z.enum(["json", "text"]).default("json"), rules: z.array(rule).default([]) })
        .optional(),
      problem: z.strictObject({
        when: condition.optional().describe("What makes an answer an error; else that its message is there"),
        message: places.describe("The provider's own words about a failure"),
        code: places.optional().describe("A word that tells failures apart"),
        codes: z.record(z.string(), kind).default({}),
        statuses: z.record(z.string().regex(/^[1-5]\d\d$/, "is not an HTTP status"), kind).default({}),
        retryAfter: z
          .union([wait, z.array(wait).min(1).max(20)])
          .optional()
          .describe("How long to wait before another try, beside the Retry-After header"),
      }),
      limits: z
        .array(z.strictObject({ of: z.string(), left: place, most: place.optional(), resets: place.optional() }))
        .optional()
        .describe("Rate limits: what of, how much is left, the most, and when it starts anew"),
    })
    .refine(({ stream, whole }) => stream || whole, "has neither stream nor whole"),
  finishWords: z
    .record(z.string(), z.enum(endReasons))
    .describe("This API's words for why a reply ended, to ours; * stands for any other word"),
});

export type WireProfile = z.infer<typeof profileSchema>;
/** A profile as it is written, before what it leaves out is filled in. */
export type WrittenProfile = z.input<typeof profileSchema>;
export type Rule = z.infer<typeof rule>;
export type Condition = z.infer<typeof condition>;

/** The JSON Schema (2020-12) of a wire profile. */
export function profileJsonSchema(): object {
  return z.toJSONSchema(profileSchema, { io: "input" });
}
