import { existsSync, readdirSync, readFileSync } from "node:fs";
import { z } from "zod";
import { wireProviderSchema } from "@/contract/providers";
import type { ReplyFacts } from "@/core/conversation/message";
import { lookSchema } from "@/core/look/look";
import { type Problem, problem } from "@/core/problem/problem";
import { type EndReason, endReasons, type ReplyEvent } from "@/core/reply/events";
import { emptyReply, fold } from "@/core/reply/reply";
import { contentSchema } from "@/core/revision/content";
import { priceOf } from "@/core/tokens/price";
import { openFolder } from "@/server/boot";
import { scriptEnding } from "@/server/checks/scripts";
import type { Home } from "@/server/home";
import { wireProvider } from "@/server/providers/wiring";
import { bellhouse } from "@/standins/shapes/bellhouse";
import { lantern } from "@/standins/shapes/lantern";
import { reedbed } from "@/standins/shapes/reedbed";
import { saltpan } from "@/standins/shapes/saltpan";
import { tidegate } from "@/standins/shapes/tidegate";
import { seedComparison, seededComparison } from "./seed-comparisons";
import { addDocuments, addQuestions, preparedDocuments, sitePort } from "./seed-documents";

/**
 * Puts the sample world into an empty data folder: the stand-ins, and the sample apps with their stored
 * conversations, dated back from today. In a folder that has apps it only keeps the addresses of
 * the stand-ins up to date.
 */
const turn = z.object({
  visitor: z.string(),
  reply: z.string(),
  thought: z.string().optional(),
  end: z.enum([...endReasons, "overloaded"]),
  input: z.int().optional(),
  output: z.int().optional(),
  thoughtTokens: z.int().optional(),
  firstTextMs: z.int().optional(),
  totalMs: z.int(),
});
const conversation = z.object({
  /** How long before the seeding it took place. */
  daysAgo: z.int(),
  time: z.string(),
  origin: z.enum(["bench", "caller"]),
  model: z.string().default("reed-deep"),
  title: z.string().optional(),
  turns: z.array(turn),
});

/** The sample apps; the first one stands first in the list. */
const folders = ["demo/quay-desk", "demo/logbook", "demo/harbour-desk"];
const firstPort = Number(process.env.FINCH_STANDINS ?? 4610);
const standIns = [reedbed(), saltpan(), tidegate(), lantern(), bellhouse()].map(({ about }, at) => ({
  about,
  address: `http://127.0.0.1:${firstPort + at}`,
}));

const home = openFolder(process.env.FINCH_DATA ?? "data");
try {
  if (home.apps.all().length === 0) home.database.transaction(() => seed(home)).immediate();
  else moveStandIns(home);
} finally {
  home.close();
}

/** The stand-ins that are wired are looked for where they listen now. */
function moveStandIns(home: Home): void {
  for (const { about, address } of standIns) {
    const wired = home.providers.byName(about.name);
    if (wired) home.providers.change(wired.id, { ...wired, address });
  }
}

function seed(home: Home): void {
  const [provider] = standIns.map(({ about, address }) =>
    wireProvider(home, wireProviderSchema.parse({ ...about, address })),
  );
  if (!provider) throw new Error("There are no stand-ins.");
  for (const folder of folders.toReversed()) seedApp(home, folder, provider.slug);
}

function seedApp(home: Home, folder: string, provider: string): void {
  const read = (name: string) => readFileSync(`${folder}/${name}`, "utf8");
  // the site of the demo is where the stand-ins are
  const text = read("app.json").replaceAll("http://127.0.0.1:4615", `http://127.0.0.1:${sitePort}`);
  const { name, ...about } = z.looseObject({ name: z.string() }).parse(JSON.parse(text));
  const documents = preparedDocuments(home, folder);
  const content = contentSchema.parse({ ...about, prompt: read("prompt.txt").trim(), provider });
  const named = documents.map(({ id, hash }) => ({ source: id, version: hash }));
  const sources = documents.length > 0 ? { ...content.sources, documents: named } : undefined;
  const app = home.apps.make(name, { ...content, sources }, Date.now());
  addDocuments(home, app.id, documents);
  addQuestions(home, app.id, folder, documents);
  if (existsSync(`${folder}/look.json`)) home.apps.setLook(app, lookSchema.parse(JSON.parse(read("look.json"))));
  const stored = z.array(conversation).parse(JSON.parse(read("conversations.json")));
  for (const each of stored.reverse()) seedConversation(home, app.id, each);
  const scripts = readdirSync(folder).filter((file) => file.endsWith(scriptEnding));
  for (const file of scripts) home.scripts.put(app.id, file.slice(0, -scriptEnding.length), read(file), Date.now());
  if (existsSync(`${folder}/comparisons.json`))
    for (const each of z.array(seededComparison).parse(JSON.parse(read("comparisons.json"))))
      seedComparison(home, app.id, each);
}

function seedConversation(
  home: Home,
  app: string,
  { daysAgo, time, origin, model, title, turns }: z.infer<typeof conversation>,
): void {
  const day = new Date(Date.now() - daysAgo * 86_400_000).toISOString().slice(0, 10);
  let now = Math.min(Date.parse(`${day}T${time}:00Z`), Date.now() - 3_600_000);
  const visitor = origin === "bench" ? null : home.visitors.add(app, {}, now);
  const { id } = home.conversations.create({
    app,
    visitor,
    origin: visitor === null ? "bench" : "http",
    opening: turns[0]?.visitor ?? "",
    now,
  });
  for (const each of turns) {
    const tip = home.conversations.byId(id)?.tip;
    const said = home.messages.addVisitorMessage({
      conversation: id,
      parent: tip ? home.messages.message(tip) : undefined,
      pieces: [{ kind: "text", text: each.visitor }],
      now,
    });
    now += each.totalMs;
    seedReply(home, app, id, said, { ...each, model }, now);
    now += 40_000;
  }
  if (title !== undefined) home.marks.setTitle(id, title);
}

function seedReply(
  home: Home,
  app: string,
  conversation: string,
  parent: ReturnType<Home["messages"]["addVisitorMessage"]>,
  each: z.infer<typeof turn> & { model: string },
  now: number,
): void {
  const prices = reedbed().about.models.find(({ name }) => name === each.model)?.price;
  const { input, output, thoughtTokens: thought } = each;
  if (!prices) throw new Error(`Reedbed has no model ${each.model}.`);
  const counts =
    input !== undefined && output !== undefined
      ? { input, output, ...(thought === undefined ? {} : { thought }) }
      : undefined;
  const usage = counts && {
    ...counts,
    estimated: each.end === "stopped",
    price: priceOf(counts, prices),
    currency: prices.currency,
  };
  const revision = home.apps.revision(app, 1);
  const content = revision?.hash ?? null;
  const isTyped = revision?.content.schema !== undefined;
  const candidate = { revision: 1, provider: "reedbed", model: each.model };
  const facts: ReplyFacts = { ...candidate, content: content ?? undefined };
  const reply = home.messages.addReply({ conversation, parent, continues: null, facts, now });
  const events: ReplyEvent[] = [
    { event: "reply", data: { reply: reply.id, conversation, message: parent.id, ...candidate } },
    ...(each.thought ? [{ event: "thought", data: { text: each.thought } } as const] : []),
    ...(each.reply ? [{ event: "text", data: { text: each.reply } } as const] : []),
    ...(isTyped ? [{ event: "data", data: { value: JSON.parse(each.reply) } } as const] : []),
    ...(usage ? [{ event: "usage", data: usage } as const] : []),
    lastEvent(each.end),
  ];
  home.events.addPage(
    reply.id,
    events.map(({ event, data }, at) => ({ id: at + 1, event, data: JSON.stringify(data) })),
  );
  if (usage) {
    const on = { app, revision: 1, content, owner: null, origin: "bench", purpose: "reply" as const };
    home.spend.add(on, candidate, usage, now);
    home.conversations.spend(conversation, usage.price, usage.currency);
  }
  const told = events.reduce(fold, emptyReply);
  home.messages.finishReply({
    id: reply.id,
    state: told.state,
    pieces: told.pieces,
    reported: usage && !usage.estimated ? usage.output - (usage.thought ?? 0) : null,
    facts: {
      ...facts,
      ...(told.thought ? { thought: told.thought } : {}),
      ...(usage ? { usage } : {}),
      ...(told.problem ? { problem: told.problem } : {}),
      ...(each.firstTextMs === undefined ? {} : { firstTextMs: each.firstTextMs }),
      totalMs: each.totalMs,
    },
  });
}

function lastEvent(
  end: EndReason | "overloaded",
): { event: "end"; data: { reason: EndReason } } | { event: "problem"; data: Problem } {
  if (end !== "overloaded") return { event: "end", data: { reason: end } };
  return {
    event: "problem",
    data: problem("overloaded", "The provider answered with status 503: too many calls at the moment."),
  };
}
