import type { Kept } from "./kept";
import type { Paper } from "./paper";

/** Drops what is kept for an app at an address: its token, and where its conversation stands. @returns the exit code */
export function forget(slug: string, { at }: { at: string }, kept: Kept, paper: Paper): number {
  const address = at.replace(/\/$/, "");
  const app = `${address}/api/apps/${encodeURIComponent(slug)}`;
  const place = kept.at(address);
  const { [app]: token, ...tokens } = place.tokens;
  const { [app]: conversation, ...conversations } = place.conversations;
  if (token === undefined && conversation === undefined) {
    paper.note(`Nothing is kept for ${slug} at ${address}.`);
    return 0;
  }
  kept.keep(address, { ...place, tokens, conversations });
  paper.note(`The token and the conversation of ${slug} at ${address} are kept no more.`);
  return 0;
}
