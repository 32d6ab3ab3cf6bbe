import { useQueryClient } from "@tanstack/react-query";
import { branches } from "@/contract/branches";
import type { Problem } from "@/core/problem/problem";
import type { Candidate } from "@/core/reply/events";
import { server } from "../shared/api";
import { keys, readEnd } from "../shared/queries";
import { useChange } from "../shared/use-change";

/** What is done with the tree of the open conversation; each gives whether it was done. */
export interface Branches {
  /** Shows the line through a message. */
  show: (message: string) => Promise<boolean>;
  name: (message: string, name: string | null) => Promise<boolean>;
  remove: (message: string) => Promise<boolean>;
  /** Adds a take by hand; one that puts another right names that. */
  write: (message: string, text: string, corrects?: string) => Promise<boolean>;
  /** @param by whose memory alone is cleared; null for that of all */
  setClear: (reply: string, isClear: boolean, by: Candidate | null) => Promise<boolean>;
  setPin: (message: string, isPin: boolean) => Promise<boolean>;
  failure: Problem | undefined;
}

type Work = () => Promise<unknown>;

export function useBranches(conversation: string | null): Branches {
  const client = useQueryClient();
  const { done, problem } = useChange("The change", async (work: Work) => {
    await work();
    if (conversation === null) return;
    await readEnd(client, conversation);
    void client.invalidateQueries({ queryKey: keys.line(conversation) });
  });
  const run = async (work: Work) => (await done(work)).ok;
  return {
    show: (id) => run(() => server.send(branches.show, { id })),
    name: (id, name) => run(() => server.send(branches.name, { id, body: { name } })),
    remove: (id) => run(() => server.send(branches.delete, { id })),
    write: (id, text, corrects) => run(() => server.send(branches.write, { id, body: { text, corrects } })),
    setClear: (id, isClear, by) => run(() => server.send(isClear ? branches.clear : branches.unclear, { id, ...by })),
    setPin: (id, isPin) => run(() => server.send(isPin ? branches.pin : branches.unpin, { id })),
    failure: problem,
  };
}
