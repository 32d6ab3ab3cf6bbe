import { existsSync, readdirSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { textOf } from "@/core/conversation/pieces";
import { toldAll } from "@/core/reply/told";
import { fileMark } from "@/core/wire/files";
import growingArray from "@/core/wire/profiles/growing-array.json";
import jsonLines from "@/core/wire/profiles/json-lines.json";
import namedEvents from "@/core/wire/profiles/named-events.json";
import oneText from "@/core/wire/profiles/one-text.json";
import { callerLine } from "../answers/conversations";
import { judgedPicture } from "../files/picture";
import { deleteConversation } from "../tending/deleting";
import { streams, TestApp } from "../test/app";
import { png } from "../test/picture";
import { type AskedBy, ask, bench } from "./ask";

const on = TestApp.each();
const bytes = png(40, 30);
const day = 24 * 60 * 60 * 1000;

function kept(of = bytes, now = 1) {
  return on.home.files.keep(judgedPicture(of), now);
}
const withPicture = (file: string, text?: string) => ({
  message: [{ kind: "picture" as const, file }, ...(text === undefined ? [] : [{ kind: "text" as const, text }])],
});

/** Has the provider speak in another shape. */
function speakAs(profile: object): void {
  const provider = on.home.providers.byId(on.provider) ?? expect.unreachable();
  on.home.providers.change(on.provider, { ...provider, profileText: JSON.stringify(profile) });
}

describe("a picture", () => {
  it("is known by its bytes, and kept once however often it comes", () => {
    const file = kept();
    expect(file).toMatchObject({ type: "image/png", width: 40, height: 30, size: bytes.length });
    expect(kept().path).toBe(file.path);
    expect(on.home.files.find(file.hash)).toEqual(file);
    expect(readdirSync(`${on.home.folder}/files/${file.hash.slice(0, 2)}`)).toEqual([file.hash]);
  });

  it("is none where its bytes are none, whatever they are called", () => {
    for (const each of [
      Buffer.from("<svg xmlns='http://www.w3.org/2000/svg' width='1' height='1'/>"),
      Buffer.from("x"),
      bytes.subarray(0, 12),
    ])
      expect(() => judgedPicture(each)).toThrow(/taken(?: are|:) PNG, JPEG, WEBP, GIF|is not whole/);
  });

  it("goes to the provider as it is, and stands in the kept request as a mark", async () => {
    const { hash } = kept();
    const { reply } = ask(on.home, on.app, bench, withPicture(hash, "What is it?"));
    await on.home.hub.ended(reply);
    const sent = JSON.parse(on.requests[0]?.body ?? "");
    expect(sent.messages[1].content).toEqual([
      { type: "image_url", image_url: { url: `data:image/png;base64,${bytes.toString("base64")}` } },
      { type: "text", text: "What is it?" },
    ]);
    expect(on.requests[0]?.headers["content-length"]).toBe(String(Buffer.byteLength(on.requests[0]?.body ?? "")));
    const [dispatch] = on.home.dispatches.ofReply(reply);
    expect(dispatch?.request.body).toContain(fileMark(hash));
    expect(dispatch?.request.body).not.toContain(bytes.toString("base64").slice(0, 40));
    expect(dispatch?.ledger?.holding?.counts).toMatchObject({ pictures: 1, tiles: 1, kilopixels: 2 });
  });

  it("is carried by later turns, and is enough of a message by itself", async () => {
    const { hash } = kept();
    const first = ask(on.home, on.app, bench, withPicture(hash));
    await on.home.hub.ended(first.reply);
    const { conversation } = first;
    await on.home.hub.ended(ask(on.home, on.app, bench, { message: "And now?", conversation }).reply);
    expect(JSON.parse(on.requests[1]?.body ?? "").messages[1].content).toHaveLength(1);
    expect(on.home.conversations.byId(conversation)?.opening).toBe("A picture");
  });

  it.each([
    ["refused by name, and nothing is stored, where the shape has no place for it", oneText, /no place for pictures/],
    ["left out where the profile says so, which the ledger says", jsonLines, undefined],
    ["sent in another shape too", growingArray, undefined],
    ["sent in a third one", namedEvents, undefined],
  ])("is %s", async (_what, profile, refused) => {
    speakAs(profile);
    const { hash } = kept();
    const call = withPicture(hash, "What is it?");
    if (refused) {
      expect(() => ask(on.home, on.app, bench, call)).toThrow(refused);
      expect(on.home.database.prepare("SELECT count(*) FROM messages").pluck().get()).toBe(0);
      return;
    }
    const { reply } = ask(on.home, on.app, bench, call);
    await on.home.hub.ended(reply);
    const [dispatch] = on.home.dispatches.ofReply(reply);
    const isSent = profile !== jsonLines;
    expect(on.requests[0]?.body.includes(bytes.toString("base64"))).toBe(isSent);
    const left = dispatch?.ledger?.entries.filter((entry) => entry.part === "beside" && entry.kind === "pictures");
    expect(left).toMatchObject(isSent ? [] : [{ carried: false, count: 1, reason: { kind: "no-place" } }]);
  });

  it("that nobody kept, or another visitor did, is not there", () => {
    const { hash } = kept();
    const visitor = (name: string): AskedBy => ({
      asker: { kind: "visitor", visitor: on.home.visitors.add(on.app.id, { name }, 1) },
      origin: "http",
      client: null,
    });
    const [ada, bo] = [visitor("ada"), visitor("bo")];
    const id = ada.asker.kind === "visitor" ? on.home.uploads.idFor(ada.asker.visitor, hash, 1) : "";
    expect(() => ask(on.home, on.app, bo, withPicture(id))).toThrow(/no picture/);
    expect(() => ask(on.home, on.app, ada, withPicture(hash))).toThrow(/no picture/);
    expect(() => ask(on.home, on.app, bench, withPicture("a".repeat(64)))).toThrow(/no picture/);
    const { conversation } = ask(on.home, on.app, ada, withPicture(id));
    const stored = on.home.conversations.byId(conversation) ?? expect.unreachable();
    const [first] = callerLine(on.home, stored, {}, toldAll).messages;
    expect(first?.pieces).toEqual([{ kind: "picture", file: id, type: "image/png", width: 40, height: 30 }]);
  });

  it("stays as long as a message holds it, and is swept a day after nothing does", async () => {
    on.respond = streams(["Aye."]);
    const [used, unused] = [kept(), kept(png(3, 3))];
    const { reply, conversation } = ask(on.home, on.app, bench, withPicture(used.hash));
    await on.home.hub.ended(reply);
    expect(on.home.files.sweep(day, 100)).toBe(1);
    expect([existsSync(used.path), existsSync(unused.path)]).toEqual([true, false]);
    await deleteConversation(on.home, conversation, "for good");
    await on.home.removal.start();
    expect(on.home.files.sweep(day, 100)).toBe(1);
    expect([existsSync(used.path), on.home.files.find(used.hash)]).toEqual([false, undefined]);
  });

  it("is in no word of a reply whose text is asked for", async () => {
    const { hash } = kept();
    const { reply, message } = ask(on.home, on.app, bench, withPicture(hash, "What is it?"));
    await on.home.hub.ended(reply);
    const asked = on.home.messages.message(message);
    expect(asked && textOf(asked)).toBe("What is it?");
  });
});
