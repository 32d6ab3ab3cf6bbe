import { newId } from "../ground/id";

/** The header by which an answer names its call, as Serve's list and the log know it. */
export const callHeader = "finch-call";

const ids = new WeakMap<Request, string>();

/** The id of a call, the same however often it is asked for. */
export function callIdOf(request: Request): string {
  const known = ids.get(request);
  if (known) return known;
  const id = newId("call");
  ids.set(request, id);
  return id;
}
