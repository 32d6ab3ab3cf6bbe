import { heldText, type ReplyCall } from "@/contract/replies";
import { measure } from "@/core/context/assemble";
import { mostTokens } from "@/core/context/reach";
import { rowOf } from "@/core/context/row";
import { modelsThatSee, placesFor } from "@/core/provider/places";
import type { ReplyHead } from "@/core/reply/events";
import type { Content, Settings } from "@/core/revision/content";
import type { Revision } from "@/core/revision/revision";
import { variablesOfCalls } from "@/core/revision/variables";
import { picturesRefused } from "@/core/serving/sent";
import { forLabels } from "@/core/sources/labels";
import type { ToolChoice } from "@/core/tools/tool";
import type { HasApps, StoredApp } from "../apps/app-store";
import { HeldMoney, holdForCalls, mostOf } from "../apps/budget";
import { type Chosen, chosenFor, fallbacksOf, revisionFor } from "../apps/candidate";
import type { HasContents } from "../apps/content-store";
import type { Origin } from "../conversations/conversation-store";
import { hangingOn, type LineNeeds } from "../conversations/line";
import type { HasMessages } from "../conversations/message-store";
import type { HasDatabase } from "../database/database";
import { type Asker, whoseLine } from "../entrance/access";
import type { HasVisitors, NewVisitor } from "../entrance/visitor-store";
import { Refusal, refuse } from "../ground/refusal";
import { withOwnOf } from "../sources/visitor-documents";
import { countsOfWholes } from "../sources/whole";
import type { HasReservations } from "../spend/reservations";
import { type Answering, type AnswerNeeds, answer } from "./answer";
import { type AskedFor, type StoreNeeds, storeAsked, textIn } from "./asked-for";

/** What of the process is used here. */
export type AskNeeds = AnswerNeeds &
  StoreNeeds &
  LineNeeds &
  HasDatabase &
  HasContents &
  HasApps &
  HasVisitors &
  HasReservations;

/** Somebody who may call for the first time, and is made a visitor when a reply is asked for. */
type NewAsker = { kind: "new visitor"; fresh: NewVisitor };

/** Who asks, and by what. */
export interface AskedBy {
  asker: Asker | NewAsker;
  origin: Origin;
  /** The name that the front end gives itself. */
  client: string | null;
  /** The content that is to answer the bench, instead of the draft, and the revision that it is or was changed from. */
  candidate?: Revision;
  /** Labels of documents that whoever asks may be answered from; all documents, where nothing is said. */
  labels?: readonly string[];
  /** The id that a new conversation gets. */
  begins?: string;
  /** Whether whoever asks can be asked in turn, whether a tool may be called; so it is where nothing is said. */
  canAllow?: boolean;
  /** Whether whoever reads can be told that what was said is taken back, and said anew; so it is where nothing is said. */
  canMend?: boolean;
}

/** The developer at the bench. */
export const bench: AskedBy = { asker: { kind: "bench" }, origin: "bench", client: null };

/** What was asked for, and by whom. */
export interface Asked {
  /** Of the reply, or of the first of its takes. */
  head: ReplyHead;
  /** The ids of further takes. */
  further: string[];
  asker: Asker;
}

/**
 * Asks for a reply, or for several takes of one: stores what the visitor said, gathers and assembles what the model
 * is to get, and has the reply made. All of it or, with a refusal, nothing is stored.
 * @param note is called in the same transaction, for what is to be stored along with the reply
 * @returns the head of the reply, which arrives by itself from here on; with the ids of further takes
 * @throws {Refusal}
 */
export function ask(
  home: AskNeeds,
  { id, name }: Pick<StoredApp, "id" | "name">,
  by: AskedBy,
  call: ReplyCall,
  note: (asked: Asked) => void = () => {},
): ReplyHead & { further: string[] } {
  if (home.isClosing()) refuse("closing", "No new replies are begun, since the server is being stopped.");
  const now = Date.now();
  const started = performance.now();
  const since = () => Math.round((performance.now() - started) * 10) / 10;
  const { making, head, further } = home.database
    .transaction(() => {
      // it may have been changed or deleted while the call was read
      const app = home.apps.byId(id) ?? refuse("not-found", `${name} was deleted.`);
      const asker: Asker =
        by.asker.kind === "new visitor"
          ? { kind: "visitor", visitor: home.visitors.add(id, by.asker.fresh, now) }
          : by.asker;
      const wanted = { ...("with" in call && call.with), tools: call.tools, schema: call.schema };
      const wantedRevision = by.candidate ?? revisionFor(home, app, asker.kind, wanted, now);
      const given = ("variables" in call && call.variables) || {};
      if (asker.kind === "visitor") {
        checkLength(app, call);
        checkPictures(app, call, by.origin);
        checkVariables(app, wantedRevision.content, given);
      }
      const asked = storeAsked(home, app, { ...by, asker }, call, wantedRevision, now);
      const { visitor: whose } = asked.conversation;
      // what a visitor may read has nothing of what is not for that visitor, whoever asks for it
      const labels = asker.kind === "bench" && whose !== null ? [] : by.labels;
      const content = withOwnOf(home, app.access, forLabels(wantedRevision.content, labels), whose);
      const revision = { ...wantedRevision, content };
      if (whose !== null) home.visitorDocuments.use(whose, now);
      const visitor = since();
      const chosen = chosenFor(home, content);
      checkChoice(content, chosen, call.toolChoice);
      checkLinked(chosen, call);
      const prompt = since();
      const variables = asker.kind === "bench" ? { ...content.samples, ...given } : given;
      const { isPassing, origin } = asked.conversation;
      const { window, calibration } = chosen.model;
      const places = placesFor(chosen.connection.profile, chosen.model);
      const seeing = () => modelsThatSee(home.providers.withModels());
      const hanging = hangingOn(home, asked.conversation.id, asked.end.id, content.memory);
      // by counts alone: what can't be sent is not stored
      const answering = { provider: chosen.connection.slug, model: chosen.model.name };
      const newest = asked.begun && asked.end !== asked.message ? [asked.message, asked.end] : [asked.end];
      const measured = measure(
        {
          content,
          variables,
          by: answering,
          window,
          places,
          seeing,
          calibration,
          now,
          wholes: countsOfWholes(home, content),
          ...hanging,
        },
        newest.map(rowOf),
      );
      if (measured.kind === "refused") throw new Refusal(measured.problem);
      const speakers: [Chosen, ...Chosen[]] = [chosen, ...fallbacksOf(home, content)];
      const common = {
        app,
        origin,
        isPassing,
        revision,
        speakers,
        variables,
        end: asked.end.id,
        hanging,
        begun: asked.begun
          ? {
              pieces: asked.begun.pieces,
              reported: asked.begun.reported,
              usage: asked.begun.facts.usage,
              cites: asked.begun.facts.cites,
            }
          : { pieces: [], reported: 0 },
        choice: call.toolChoice,
        isSingle: call.oneAtATime,
        visitor: whose,
        canAllow: by.canAllow,
        canMend: by.canMend,
        now,
        started,
      };
      const count = ("count" in call && call.count) || 1;
      const before = "again" in call ? home.messages.takesOf(asked.message.id).length : 0;
      const takes = addTakes(home, asked, asker, count, {
        revision: revision.number,
        content: revision.hash,
        provider: chosen.connection.slug,
        model: chosen.model.name,
        steps: { visitor, prompt, memory: since() },
        preview: wanted.preview && asker.kind === "visitor" ? true : undefined,
        now,
      });
      const groups = groupsOf(takes, speakers, (content.tools ?? []).length > 0 || content.schema !== undefined);
      const [{ head }, ...others] = takes;
      const further = others.map((take) => take.head.reply);
      note({ head, further, asker });
      const models = speakers.map(({ model }) => model);
      const sent = mostTokens(measured.reach);
      const most = groups.map((group) => mostOf(models, sent, content.settings.maxOutput, group.length));
      const { currency } = chosen.model.price;
      const held = holdForCalls(home, app, most, currency, now, asker.kind === "bench");
      const making = groups.map((group, at): Answering => {
        const settings = settingsOf(content.settings, before + at);
        const money = new HeldMoney(
          home,
          app,
          content.settings.maxOutput,
          asker.kind === "bench",
          held[at] as () => void,
        );
        return { ...common, settings, takes: group, hold: money.hold, settle: money.settle };
      });
      return { making, head, further };
    })
    .immediate();
  for (const each of making) answer(home, each);
  return { ...head, further };
}

type Take = Answering["takes"][0];

/** Adds so many replies of which nothing has come. The first of them is shown from here on. */
function addTakes(
  home: HasMessages,
  { conversation, message, begun }: AskedFor,
  asker: Asker,
  count: number,
  {
    now,
    steps,
    preview,
    content,
    ...candidate
  }: Pick<ReplyHead, "revision" | "provider" | "model" | "preview"> & {
    content: string;
    steps: { visitor: number; prompt: number; memory: number };
    now: number;
  },
): [Take, ...Take[]] {
  const takes = Array.from({ length: count }, (_, at): Take => {
    const reply = home.messages.addReply({
      conversation: conversation.id,
      parent: message,
      continues: begun?.id ?? null,
      facts: { ...candidate, content, steps },
      now,
      whose: at === 0 ? whoseLine(asker, conversation) : "nobody",
    });
    const head: ReplyHead = {
      reply: reply.id,
      conversation: conversation.id,
      message: message.id,
      ...candidate,
      continues: begun?.id,
      preview,
    };
    return { reply, head };
  });
  return takes as [Take, ...Take[]];
}

/** The takes that are asked for in one call, where all APIs that may answer can do that; else each by itself. With tools, or a schema to fit, their rounds would part. */
function groupsOf(takes: [Take, ...Take[]], speakers: readonly Chosen[], hasRounds: boolean): [Take, ...Take[]][] {
  if (hasRounds) return takes.map((take) => [take]);
  const canTogether = speakers.every(({ connection, model }) => connection.profile.requestFor(model.name).hasTakes);
  return canTogether ? [takes] : takes.map((take) => [take]);
}

/** The settings for a take: another one has another seed, since an API may otherwise give the same. */
function settingsOf(settings: Settings, before: number): Settings {
  return before === 0 ? settings : { ...settings, seed: (settings.seed ?? 0) + before };
}

/** Lets a caller fill those variables of the prompt alone that the app leaves to calls. @throws {Refusal} `bad-request` */
function checkVariables({ name }: StoredApp, content: Content, given: Record<string, string>): void {
  const open = variablesOfCalls(content);
  const other = Object.keys(given).find((each) => !open.includes(each));
  if (other === undefined) return;
  refuse("bad-request", `\`variables.${other}\`: ${name} takes no value of that name from a call.`, {
    advice: open.length === 0 ? "Leave `variables` out." : `Calls may give ${open.join(", ")}.`,
  });
}

/** Has a choice of tools be one that can be heeded. @throws {Refusal} */
function checkChoice({ tools = [] }: Content, { connection, model }: Chosen, choice: ToolChoice = "auto"): void {
  if (choice === "auto" || choice === "none") return;
  const names = tools.map(({ name }) => name);
  const isThere = typeof choice === "string" ? names.length > 0 : names.includes(choice.name);
  const wanted = typeof choice === "string" ? "A tool" : `The tool ${choice.name}`;
  if (!isThere)
    refuse("bad-request", `${wanted} is to be called, and there is none.`, {
      advice: names.length === 0 ? "Bring it along in `tools`." : `Choose one of ${names.join(", ")}.`,
    });
  if (!connection.profile.placesFor(model.name).choosesTools)
    refuse("no-place", `${connection.name} can't be told that a tool has to be called.`, {
      advice: "Leave the choice out, or choose another model.",
    });
}

/** Has a picture that stands at an address be one that the API takes so. @throws {Refusal} `no-place` */
function checkLinked({ connection, model }: Chosen, call: ReplyCall): void {
  const pieces = "message" in call && typeof call.message !== "string" ? call.message : [];
  if (!pieces.some(({ kind }) => kind === "linked")) return;
  const { picture, addresses } = placesFor(connection.profile, model);
  if (picture === "taken" && !addresses)
    refuse("no-place", `${connection.name} takes pictures as they are, and none at an address.`, {
      advice: "Keep the picture with POST to the files of this app, and name it by what comes back.",
    });
}

/** Holds pictures to who may send them, and how many. @throws {Refusal} */
function checkPictures({ access }: StoredApp, call: ReplyCall, origin: Origin): void {
  const pieces = "message" in call && typeof call.message !== "string" ? call.message : [];
  const count = pieces.filter(({ kind }) => kind === "picture" || kind === "linked").length;
  const refused = picturesRefused(access, origin === "page" ? "page" : "calls", count);
  if (refused) throw new Refusal(refused);
}

/** Holds what a caller says to the length that the app takes. @throws {Refusal} `too-long` */
function checkLength({ access, name }: StoredApp, call: ReplyCall): void {
  const { message: most } = access.limits;
  const texts = "messages" in call ? call.messages.map(heldText) : "message" in call ? [textIn(call)] : [];
  const longest = Math.max(0, ...texts.map((text) => text.length));
  if (longest > most)
    refuse("too-long", `${name} takes messages of up to ${most} characters, and this one has ${longest}.`, {
      advice: "Shorten it, or send it in parts.",
    });
}
