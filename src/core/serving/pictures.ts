import { type Problem, problem } from "../problem/problem";
import type { Access, picturesFrom } from "./access";

/** Why a caller may not send so many pictures with a message; undefined where it may. */
export function picturesRefused(
  { pictures }: Pick<Access, "pictures">,
  from: (typeof picturesFrom)[number],
  count: number,
): Problem | undefined {
  if (count === 0) return undefined;
  if (!pictures.from.includes(from))
    return problem("forbidden", "Callers may send no pictures here.", {
      advice: "Leave them out, or have whoever runs the app allow them in Serve.",
    });
  if (count <= pictures.most) return undefined;
  return problem("bad-request", `A message may have ${pictures.most} pictures here, and this one has ${count}.`, {
    advice: "Send some of them with the next message.",
  });
}
