import type { Duet, DuetSide, ListedDuet, Utterance } from "@/contract/duets";
import { circleAt, circlesIn } from "@/core/comparing/duet/circles";
import type { StoredApp } from "../apps/app-store";
import { utteranceOf, uttered } from "../comparing/duet-runner";
import type { HasDuets, StoredDuet, DuetSide as StoredSide } from "../comparing/duet-store";
import type { HasProviders } from "../providers/provider-store";
import { repliesForBench, type ToldLineNeeds } from "./conversations";

/** What of the process is used here. */
export type ToldDuetNeeds = ToldLineNeeds & HasDuets & HasProviders;

/** The duets of an app, as they are listed. */
export function listedDuets({ duets }: HasDuets, app: StoredApp): { duets: ListedDuet[] } {
  return {
    duets: duets.ofApp(app.id).map(({ id, name, opening, cue, utterances, ended, updatedAt }) => ({
      id,
      name,
      opening: opening || cue,
      utterances,
      ended,
      updatedAt,
    })),
  };
}

/** A duet with all that was said. */
export function duetAnswer(home: ToldDuetNeeds, duet: StoredDuet): Duet {
  const { id, app: appId, createdAt: _createdAt, judgedFrom, ...told } = duet;
  const app = home.apps.byId(appId);
  if (!app) throw new Error(`Duet ${id} is of no app.`);
  const sides = home.duets.sides(id);
  const words = home.duets.words(id);
  const turns = home.duets.turns(id).map((turn) => ({ ...turn, stored: utteranceOf(home, turn) }));
  const replies = sides.flatMap(({ side, conversation }) => {
    const of = conversation === null ? undefined : home.conversations.byId(conversation);
    const stored = turns.flatMap((turn) => (turn.side === side && turn.stored ? [turn.stored] : []));
    return of ? repliesForBench(home, app, of, stored) : [];
  });
  const said = turns.map(({ stored }) => uttered(stored));
  return {
    ...told,
    id,
    app: app.slug,
    sides: sides.map((side) => sideAnswer(home, app, side)),
    utterances: turns.map(
      ({ number, side, stored }): Utterance => ({
        number,
        side,
        reply: replies.find((reply) => reply.id === stored?.id) ?? null,
        words: words.filter((word) => word.number === number).map(({ text }) => text),
      }),
    ),
    waiting: words.filter(({ number }) => number === null).map(({ side, text }) => ({ side, text })),
    circles: circlesIn(said.slice(judgedFrom).map(({ text }) => text)).measure,
    circleAt,
    tokens: said.reduce((sum, { tokens }) => sum + tokens, 0),
    price: said.reduce((sum, { price }) => sum + price, 0),
    currency: turns.map(({ stored }) => stored?.facts.usage?.currency).find((each) => each !== undefined) ?? "EUR",
  };
}

function sideAnswer({ apps, contents }: ToldDuetNeeds, app: StoredApp, side: StoredSide): DuetSide {
  const { base, revision, contentHash: hash, conversation } = side;
  const was = apps.revision(app.id, revision);
  const content = contents.read(hash);
  return { base, revision, hash, content, changedFrom: was && was.hash !== hash ? was.content : null, conversation };
}

/** A duet as a script. */
export function duetFile(
  home: ToldDuetNeeds,
  duet: StoredDuet,
  as: "markdown" | "jsonl",
): { text: string; type: string } {
  const [first, second] = home.duets.sides(duet.id);
  const words = home.duets.words(duet.id);
  const lines = home.duets.turns(duet.id).map((turn) => ({
    ...turn,
    reply: utteranceOf(home, turn),
    words: words.filter(({ number }) => number === turn.number).map(({ text }) => text),
    of: turn.side === 0 ? first : second,
  }));
  if (as === "jsonl")
    return {
      type: "application/jsonl",
      text: lines
        .map(({ number, side, of, reply, words }) => {
          const { provider, model, usage } = reply?.facts ?? {};
          const line = {
            ...{ number, speaker: side + 1, revision: of.revision, content: of.contentHash, provider, model },
            ...(words.length > 0 ? { told: words } : {}),
            ...{ text: uttered(reply).text, state: reply?.state, usage },
          };
          return `${JSON.stringify(line)}\n`;
        })
        .join(""),
    };
  const models = [first, second].map(({ contentHash }) => home.contents.read(contentHash).model);
  const names = models[0] === models[1] ? models.map((model, at) => `${model} (${at + 1})`) : models;
  const head = `# ${duet.name ?? `${names[0]} and ${names[1]}`}`;
  const told = lines.flatMap(({ side, reply, words }) => [
    ...words.map((word) => `*(to ${names[side]}: ${word.replace(/\s+/g, " ")})*`),
    `**${names[side]}**\n\n${uttered(reply).text}`,
  ]);
  return { type: "text/markdown", text: `${[head, ...told].join("\n\n")}\n` };
}
