import { describe, expect, it } from "vitest";
import { benchLine } from "../answers/conversations";
import { ask, bench } from "../replies/ask";
import { TestApp } from "../test/app";
import { editDraft } from "./app";

const on = TestApp.each();

/** A message of the bench, answered, with settings of its own; gives its conversation. */
async function answered(settings?: { temperature: number }, conversation?: string): Promise<string> {
  const reply = ask(on.home, on.app, bench, {
    message: "Hello",
    conversation,
    ...(settings ? { with: { settings } } : {}),
  });
  await on.home.hub.ended(reply.reply);
  return reply.conversation;
}

describe("a content", () => {
  it("is kept once, however often it is pointed to, and deleted when nothing does any more", async () => {
    const { contents, apps, conversations, removal } = on.home;
    const all = () => on.home.database.prepare("SELECT count(*) FROM contents").pluck().get();
    expect(all()).toBe(1);
    on.app = apps.setDraft(on.app, on.content({ prompt: "One." }), 1);
    on.app = apps.setDraft(on.app, on.content({ prompt: "Two." }), 1);
    expect(all()).toBe(3);
    // the first is the live revision, the last the draft
    expect(contents.sweep(1, 10)).toBe(0);
    expect(contents.sweep(2, 10)).toBe(1);
    const changed = await answered({ temperature: 0.9 });
    const later = Date.now() + 1;
    expect(contents.sweep(later, 10)).toBe(0);
    expect(all()).toBe(3);
    conversations.leave(changed, later);
    await removal.start();
    expect(contents.sweep(later, 10)).toBe(1);
  });

  it("of two temperatures is two, by which replies of one revision are told apart", async () => {
    const conversation = await answered({ temperature: 0.2 });
    await answered({ temperature: 0.9 }, conversation);
    await answered(undefined, conversation);
    const stored = on.home.conversations.byId(conversation);
    if (!stored) throw new Error("The conversation is gone.");
    const replies = benchLine(on.home, on.app, stored, {}).messages.flatMap((message) =>
      message.role === "app" ? [message.facts] : [],
    );
    expect(new Set(replies.map(({ revision }) => revision)).size).toBe(1);
    expect(new Set(replies.map(({ content }) => content)).size).toBe(3);
    expect(replies.map((facts) => ("apart" in facts ? facts.apart : undefined))).toEqual([
      { settings: { temperature: 0.2 }, prompt: undefined },
      { settings: { temperature: 0.9 }, prompt: undefined },
      undefined,
    ]);
    const spent = on.home.database.prepare("SELECT content FROM spend ORDER BY id").pluck().all();
    expect(spent).toEqual(replies.map(({ content }) => content));
  });
});

describe("a draft", () => {
  it("keeps both edits of two who read the same one, where they are of different parts", () => {
    const read = on.app.draftHash;
    editDraft(on.home, on.app, read, on.content({ prompt: "Be long." }));
    const both = editDraft(on.home, on.app, read, on.content({ memory: { kind: "nothing" } }));
    expect(both.draft).toMatchObject({ prompt: "Be long.", memory: { kind: "nothing" } });
  });

  it("is not overwritten by an edit of a part that was edited meanwhile: what stands there is told", () => {
    const read = on.app.draftHash;
    const stored = editDraft(on.home, on.app, read, on.content({ prompt: "Be long." }));
    const second = () => editDraft(on.home, on.app, read, on.content({ prompt: "Be kind.", settings: {} }));
    expect(second).toThrow(/The system prompt of A's draft was changed in another place/);
    expect(second).toThrow(
      expect.objectContaining({
        extras: { draft: { content: stored.draft, hash: stored.draftHash, parts: ["system prompt"] } },
      }),
    );
    expect(on.home.apps.byId(on.app.id)?.draft.prompt).toBe("Be long.");
    // with the hash of what stands there it is an edit of that
    expect(editDraft(on.home, on.app, stored.draftHash, on.content({ prompt: "Be kind." })).draft.prompt).toBe(
      "Be kind.",
    );
  });

  it("that nobody has any more is nothing to begin with", () => {
    expect(() => editDraft(on.home, on.app, "0".repeat(64), on.content({ prompt: "Be long." }))).toThrow(/was changed/);
    expect(editDraft(on.home, on.app, "0".repeat(64), on.app.draft).draftHash).toBe(on.app.draftHash);
  });
});
