import { z } from "zod";
import { laneBaseSchema } from "@/core/comparing/lane";
import type { ReplyFacts } from "@/core/conversation/message";
import { piecesOf } from "@/core/conversation/pieces";
import type { Content } from "@/core/revision/content";
import { priceOf } from "@/core/tokens/price";
import { shippedProfiles } from "@/core/wire/profiles/shipped";
import { newId } from "@/server/ground/id";
import type { Home } from "@/server/home";
import { reedbed } from "@/standins/shapes/reedbed";

/** A comparison as it is written down in the demo: what each lane answered, and how long that took. */
export const seededComparison = z.object({
  daysAgo: z.int(),
  time: z.string(),
  name: z.string(),
  lanes: z.array(z.object({ base: laneBaseSchema, temperature: z.number().optional(), model: z.string().optional() })),
  turns: z.array(
    z.object({
      visitor: z.string(),
      /** Of each lane. */
      replies: z.array(
        z.object({
          reply: z.string(),
          thought: z.string().optional(),
          input: z.int(),
          output: z.int(),
          thoughtTokens: z.int().optional(),
          firstTextMs: z.int(),
          totalMs: z.int(),
        }),
      ),
    }),
  ),
});
type Seeded = z.infer<typeof seededComparison>;
type SeededReply = Seeded["turns"][0]["replies"][0];

/** Puts a comparison into the data folder, with the dispatches of its replies as Reedbed would have answered. */
export function seedComparison(home: Home, app: string, seeded: Seeded): void {
  const { comparisons, conversations, contents, apps } = home;
  const day = new Date(Date.now() - seeded.daysAgo * 86_400_000).toISOString().slice(0, 10);
  const began = Date.parse(`${day}T${seeded.time}:00Z`);
  const { id } = comparisons.add({ app, name: seeded.name, startsAfter: null, startsIn: null, now: began });
  for (const [at, turn] of seeded.turns.entries()) comparisons.addTurn(id, turn.visitor, began + at * 60_000);
  const live = apps.revision(app, 1)?.content as Content;
  for (const [place, { base, temperature, model }] of seeded.lanes.entries()) {
    const settings = temperature === undefined ? live.settings : { ...live.settings, temperature };
    const content = { ...live, settings, model: model ?? live.model };
    const contentHash = contents.keep(content, began);
    const opening = seeded.turns[0]?.visitor ?? "";
    const conversation = conversations.create({
      app,
      visitor: null,
      origin: "lane",
      isOwned: true,
      opening,
      now: began,
    });
    const lane = comparisons.addLane({
      comparison: id,
      place,
      base,
      revision: 1,
      contentHash,
      conversation: conversation.id,
    });
    for (const [at, turn] of seeded.turns.entries()) {
      const reply = turn.replies[place];
      if (!reply) throw new Error(`Lane ${place} has no reply in turn ${at + 1}.`);
      const asked = { message: turn.visitor, at: began + at * 60_000 };
      const message = seedLaneTurn(home, { app, conversation: conversation.id, content, contentHash }, asked, reply);
      comparisons.setTurn(lane.id, { turn: at + 1, message, problem: null });
    }
  }
}

/** Stores a turn of a lane; gives the id of the visitor's message. */
function seedLaneTurn(
  home: Home,
  lane: { app: string; conversation: string; content: Content; contentHash: string },
  asked: { message: string; at: number },
  reply: SeededReply,
): string {
  const { messages, conversations } = home;
  const { conversation, content, contentHash } = lane;
  const tip = conversations.byId(conversation)?.tip;
  const said = messages.addVisitorMessage({
    conversation,
    parent: tip ? messages.message(tip) : undefined,
    pieces: piecesOf(asked.message),
    now: asked.at,
  });
  const prices = reedbed().about.models.find(({ name }) => name === content.model)?.price;
  if (!prices) throw new Error(`Reedbed has no model ${content.model}.`);
  const { input, output, thoughtTokens: thought } = reply;
  const counts = { input, output, ...(thought === undefined ? {} : { thought }) };
  const usage = { ...counts, estimated: false, price: priceOf(counts, prices), currency: prices.currency };
  const candidate = { provider: content.provider, model: content.model };
  const facts: ReplyFacts = { ...candidate, revision: 1, content: contentHash };
  const { id } = messages.addReply({ conversation, parent: said, continues: null, facts, now: asked.at });
  messages.finishReply({
    id,
    state: "complete",
    pieces: piecesOf(reply.reply),
    reported: output - (thought ?? 0),
    facts: { ...facts, usage, thought: reply.thought, firstTextMs: reply.firstTextMs, totalMs: reply.totalMs },
  });
  seedDispatch(home, lane, { reply: id, asked, usage, prices }, reply);
  return said.id;
}

/** Stores the call of a reply: its request, and what came back bit by bit. */
function seedDispatch(
  { dispatches, providers, spend, conversations }: Home,
  { app, conversation, content, contentHash }: Parameters<typeof seedLaneTurn>[1],
  of: {
    reply: string;
    asked: { message: string; at: number };
    usage: Parameters<Home["spend"]["add"]>[2];
    prices: Parameters<typeof priceOf>[1];
  },
  { reply, thought, firstTextMs, totalMs }: SeededReply,
): void {
  const provider = providers.bySlug(content.provider);
  if (!provider) throw new Error("Reedbed is not wired.");
  const body = {
    model: content.model,
    messages: [
      { role: "system", content: content.prompt },
      { role: "user", content: of.asked.message },
    ],
    stream: true,
    temperature: content.settings.temperature,
    max_tokens: content.settings.maxOutput,
  };
  const id = newId("dis");
  const making = dispatches.make("comparison", null, [of.reply], of.asked.at);
  dispatches.begin(making, {
    id,
    round: 1,
    attempt: 1,
    providerId: provider.id,
    provider: provider.slug,
    model: content.model,
    profileText: JSON.stringify(shippedProfiles["chat-completions"]),
    request: {
      method: "POST",
      url: `${provider.address}/v1/chat/completions`,
      headers: { "content-type": "application/json", authorization: "Bearer ••••" },
      body: JSON.stringify(body),
    },
    ledger: null,
    prices: of.prices,
    startedAt: of.asked.at,
  });
  const events = [
    ...arrivalsOf(thought ?? "", 320, firstTextMs - 60).map(([at, text]) => [at, delta({ reasoning: text })] as const),
    ...arrivalsOf(reply, firstTextMs, totalMs - 30).map(([at, text]) => [at, delta({ content: text })] as const),
    [totalMs, `${ending(of.usage)}data: [DONE]\n\n`] as const,
  ];
  dispatches.addChunk({
    dispatch: id,
    seq: 0,
    at: events[0]?.[0] ?? 0,
    arrivals: events.map(([at, text]) => `${at}:${Buffer.byteLength(text)}`).join(" "),
    bytes: Buffer.from(events.map(([, text]) => text).join("")),
  });
  dispatches.finish({
    id,
    status: 200,
    headers: { "content-type": "text/event-stream" },
    outcome: { event: "end", data: { reason: "complete" } },
    usage: of.usage,
    counted: [],
    notes: [],
    endedAt: of.asked.at + totalMs,
  });
  const on = { app, revision: 1, content: contentHash, owner: null, origin: "lane", purpose: "comparison" as const };
  spend.add(on, { provider: provider.slug, model: content.model }, of.usage, of.asked.at);
  conversations.spend(conversation, of.usage.price, of.usage.currency);
}

/** A text in parts of one to three words, spread unevenly over a stretch of time. */
function arrivalsOf(text: string, from: number, to: number): (readonly [at: number, text: string])[] {
  const words = text.match(/\S+\s*/g) ?? [];
  const parts: string[] = [];
  for (let at = 0; at < words.length; ) {
    const size = 1 + ((at * 7) % 3);
    parts.push(words.slice(at, at + size).join(""));
    at += size;
  }
  const step = (to - from) / Math.max(parts.length - 1, 1);
  return parts.map((part, at) => {
    const shift = at === 0 || at === parts.length - 1 ? 0 : ((at * 37) % 11) - 5;
    return [Math.round(from + at * step + (shift * step) / 14), part] as const;
  });
}

function delta(of: object): string {
  return `data: ${JSON.stringify({ choices: [{ index: 0, delta: of, finish_reason: null }] })}\n\n`;
}

function ending({ input, output }: { input: number; output: number }): string {
  const counts = { prompt_tokens: input, completion_tokens: output };
  return `data: ${JSON.stringify({ choices: [{ index: 0, delta: {}, finish_reason: "stop" }], usage: counts })}\n\n`;
}
