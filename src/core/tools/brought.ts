import { type Problem, problem } from "../problem/problem";
import type { Content } from "../revision/content";
import { wrongSchema } from "./arguments";
import { type BroughtTool, mostTools, type Tool } from "./tool";

/** Content with the tools that a caller brings along, or why those can't be taken. */
export function withBrought(
  content: Content,
  brought: readonly BroughtTool[],
): { ok: true; content: Content } | { ok: false; problem: Problem } {
  const own = content.tools ?? [];
  const refused = (detail: string, advice: string) =>
    ({ ok: false, problem: problem("bad-request", detail, { advice }) }) as const;
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
    const wrong = wrongSchema(tool);
    if (wrong !== undefined)
      return refused(`\`parameters\` of ${tool.name} is no JSON Schema: ${wrong}.`, "Send one of 2020-12.");
  }
  const tools = brought.map(({ name, description, parameters }): Tool => {
    return { name, description: description || name, parameters, answer: { by: "caller" } };
  });
  return { ok: true, content: tools.length === 0 ? content : { ...content, tools: [...own, ...tools] } };
}
