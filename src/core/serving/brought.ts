import { problem } from "../problem/problem";
import type { Content } from "../revision/content";
import type { Schemas } from "../schema/schema";
import { type BroughtTool, mostTools, type Tool } from "../tools/tool";
import type { ReplySchema } from "../typed/schema";
import type { Access, broughtKinds, Wanted } from "./access";

/** What a caller brings along with a question. */
export interface Brought {
  /** Tools that it answers itself. */
  tools?: readonly BroughtTool[];
  /** What the reply has to fit. */
  schema?: ReplySchema;
}

/** Content with what a caller brings along, as far as the developer allows it; the same one where that is nothing. */
export function broughtContent(
  content: Content,
  { tools = [], schema }: Brought,
  { brings }: Pick<Access, "brings">,
  schemas: Schemas,
): Wanted {
  const kinds = { tools: tools.length > 0, schema: schema !== undefined };
  for (const kind of ["tools", "schema"] as const)
    if (kinds[kind] && !brings.includes(kind))
      return {
        ok: false,
        problem: problem("forbidden", `Callers may bring no ${words[kind]} along here.`, {
          advice: "Leave it out, or have whoever runs the app allow it in Serve.",
        }),
      };
  const wrong = schema && schemas.wrongIn(schema);
  if (wrong !== undefined) return refused(`\`schema\` is no JSON Schema: ${wrong}.`, "Send one of 2020-12.");
  const typed = schema ? { ...content, schema } : content;
  return tools.length === 0 ? { ok: true, content: typed } : withTools(typed, tools, schemas);
}

const words: Record<(typeof broughtKinds)[number], string> = { tools: "tools", schema: "schema of the reply" };

function withTools(content: Content, brought: readonly BroughtTool[], schemas: Schemas): Wanted {
  const own = content.tools ?? [];
  const all = [...own.map(({ name }) => name), ...brought.map(({ name }) => name)];
  const twice = all.find((name, at) => all.indexOf(name) < at);
  if (twice !== undefined)
    return refused(
      `There are two tools of the name ${twice}.`,
      own.some(({ name }) => name === twice)
        ? "The app has one of its own; give yours another name."
        : "Name each once.",
    );
  if (all.length > mostTools)
    return refused(`That makes ${all.length} tools, and a model is offered up to ${mostTools}.`, "Bring fewer along.");
  for (const tool of brought) {
    const wrong = schemas.wrongIn(tool.parameters);
    if (wrong !== undefined)
      return refused(`\`parameters\` of ${tool.name} is no JSON Schema: ${wrong}.`, "Send one of 2020-12.");
  }
  const tools = brought.map(({ name, description, parameters }): Tool => {
    return { name, description: description || name, parameters, answer: { by: "caller" } };
  });
  return { ok: true, content: { ...content, tools: [...own, ...tools] } };
}

function refused(detail: string, advice: string): Wanted {
  return { ok: false, problem: problem("bad-request", detail, { advice }) };
}
