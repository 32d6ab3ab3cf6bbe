import { z } from "zod";
import { type Problem, statusOf } from "@/core/problem/problem";
import { mostTools } from "@/core/tools/tool";
import { replySchemaSchema } from "@/core/typed/schema";
import { call, type ErrorShape, events, json, jsonBody } from "./call";
import { callerProblems, failures, mostTakes, variablesSchema } from "./replies";

/**
 * The shape that most model servers share, for programs that speak it already. What changes an answer is taken where
 * the developer lets callers choose it, and refused otherwise; members that change nothing of it are ignored.
 */

const textPart = z.looseObject({ type: z.literal("text"), text: z.string() });
const content = z.union([z.string(), z.array(textPart)], { error: "is neither text nor a list of text parts" });

/** A call of a tool; its arguments are the text of a JSON document. */
const toolCallSchema = z.object({
  id: z.string().max(200),
  type: z.literal("function"),
  function: z.object({ name: z.string().max(200), arguments: z.string().max(256 * 1024) }),
});

/** One message of a history, as that shape has it. */
const messageSchema = z.looseObject({
  role: z.string(),
  content: content.nullish(),
  tool_calls: z.array(toolCallSchema).max(400).nullish(),
  tool_call_id: z.string().max(200).nullish(),
});
export type CommonMessage = z.infer<typeof messageSchema>;

/** A tool that the caller answers. */
const toolSchema = z.looseObject({
  type: z.literal("function"),
  function: z.looseObject({
    name: z.string(),
    description: z.string().nullish(),
    parameters: z.record(z.string(), z.json()).nullish(),
  }),
});

const toolChoice = z.union(
  [
    z.enum(["auto", "none", "required"]),
    z.looseObject({ type: z.literal("function"), function: z.looseObject({ name: z.string() }) }),
  ],
  { error: "is none of auto, none, required, and names no function" },
);

const responseFormat = z.discriminatedUnion("type", [
  z.looseObject({ type: z.literal("text") }),
  z.looseObject({ type: z.literal("json_object") }),
  z.looseObject({ type: z.literal("json_schema"), json_schema: z.looseObject({ schema: replySchemaSchema }) }),
]);

const chatCallSchema = z
  .looseObject({
    /** The app's address, or a model that callers may choose. */
    model: z.string().max(300).optional(),
    messages: z.array(messageSchema).min(1).max(4_000),
    stream: z.boolean().nullish(),
    stream_options: z.looseObject({ include_usage: z.boolean().optional() }).nullish(),
    /** `false` where nothing of it is to be kept. */
    store: z.boolean().nullish(),
    /** Values of those variables of the prompt that a call gives: a member of ours. */
    variables: variablesSchema.nullish(),
    /** Who is talking, where no header says it. */
    user: z.string().max(100).nullish(),
    temperature: z.number().nullish(),
    top_p: z.number().nullish(),
    max_tokens: z.number().nullish(),
    max_completion_tokens: z.number().nullish(),
    /** How many replies are wanted. */
    n: z.int().min(1).max(mostTakes).nullish(),
    stop: z.union([z.string(), z.array(z.string())]).nullish(),
    seed: z.number().nullish(),
    tools: z.array(toolSchema).max(mostTools).nullish(),
    tool_choice: toolChoice.nullish(),
    /** `false` where the model may ask for one call at a time alone. */
    parallel_tool_calls: z.boolean().nullish(),
    /** What the reply has to fit. */
    response_format: responseFormat.nullish(),
  })
  .meta({ id: "ChatCall" });
export type ChatCall = z.infer<typeof chatCallSchema>;

const usageSchema = z.object({ prompt_tokens: z.int(), completion_tokens: z.int(), total_tokens: z.int() });
const ending = z.enum(["stop", "length", "tool_calls", "content_filter"]);
const about = { id: z.string(), created: z.int(), model: z.string() };

const completionSchema = z
  .object({
    ...about,
    object: z.literal("chat.completion"),
    choices: z.array(
      z.object({
        index: z.int(),
        message: z.object({
          role: z.literal("assistant"),
          content: z.string().nullable(),
          tool_calls: z.array(toolCallSchema).optional(),
        }),
        finish_reason: ending,
      }),
    ),
    usage: usageSchema.optional(),
  })
  .meta({ id: "Completion" });
export type Completion = z.infer<typeof completionSchema>;

/** A part of a call: its id and its name come first, its arguments in parts. */
const toolFragmentSchema = z.object({
  index: z.int(),
  id: z.string().optional(),
  type: z.literal("function").optional(),
  function: z.object({ name: z.string().optional(), arguments: z.string() }),
});

const chunkSchema = z
  .object({
    ...about,
    object: z.literal("chat.completion.chunk"),
    choices: z.array(
      z.object({
        index: z.int(),
        delta: z.object({
          role: z.literal("assistant").optional(),
          content: z.string().optional(),
          tool_calls: z.array(toolFragmentSchema).optional(),
        }),
        finish_reason: ending.nullable(),
      }),
    ),
    usage: usageSchema.nullish(),
  })
  .meta({ id: "CompletionChunk" });
export type Chunk = z.infer<typeof chunkSchema>;

const errorSchema = z
  .object({
    error: z.object({ message: z.string(), type: z.string(), param: z.string().nullable(), code: z.string() }),
  })
  .meta({ id: "CommonError" });

/** Errors as that shape has them. */
export const commonErrors: ErrorShape = {
  type: "application/json",
  schema: errorSchema,
  write: (problem, { param }) => ({ error: commonError(problem, param) }),
};

/** A problem as that shape tells it. */
export function commonError(
  { kind, detail, advice }: Problem,
  param: string | undefined,
): z.infer<typeof errorSchema>["error"] {
  const type = statusOf(kind) < 500 ? "invalid_request_error" : "server_error";
  return { message: `${detail} ${advice}`, type, param: param ?? null, code: kind };
}

const modelSchema = z
  .object({ id: z.string(), object: z.literal("model"), created: z.int(), owned_by: z.string() })
  .meta({ id: "CommonModel" });
export type CommonModel = z.infer<typeof modelSchema>;

const modelsSchema = z.object({ object: z.literal("list"), data: z.array(modelSchema) }).meta({ id: "CommonModels" });
export type CommonModels = z.infer<typeof modelsSchema>;

export const common = {
  chat: call({
    method: "POST",
    path: "/api/apps/{slug}/v1/chat/completions",
    by: "visitor",
    does: "Asks for a reply in the shape that most model servers share; a history that was sent before is gone on with, and so is a reply whose calls are answered.",
    body: jsonBody(chatCallSchema),
    answers: { 200: [json(completionSchema), events(chunkSchema)] },
    problems: [...failures, ...callerProblems, "not-found", "busy"],
    errors: commonErrors,
    example: { body: { messages: [{ role: "user", content: "When does the next boat leave?" }] } },
  }),
  models: call({
    method: "GET",
    path: "/api/apps/{slug}/v1/models",
    by: "visitor",
    does: "Lists what `model` may be: the app, and the models that callers may choose.",
    answers: { 200: json(modelsSchema) },
    problems: ["not-found", "unknown-caller"],
    errors: commonErrors,
  }),
  model: call({
    method: "GET",
    path: "/api/apps/{slug}/v1/models/{id}",
    by: "visitor",
    does: "Gives one of them.",
    answers: { 200: json(modelSchema) },
    problems: ["not-found", "unknown-caller"],
    errors: commonErrors,
  }),
};
