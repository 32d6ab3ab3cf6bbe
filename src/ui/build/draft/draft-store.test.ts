import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { App } from "@/contract/apps";
import { problemDocument } from "@/contract/problem";
import { problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import { DraftStore } from "./draft-store";

const content: Content = {
  prompt: "You are Quay Desk.",
  provider: "reedbed",
  model: "reed-swift",
  settings: {},
  memory: { kind: "everything" },
  variables: {},
};

function appWith(draft: Content, draftHash: string): App {
  return {
    slug: "quay-desk",
    name: "Quay Desk",
    draft,
    draftHash,
    draftRevision: null,
    latest: { number: 1, hash: "one", content },
    liveRevision: 1,
  };
}

/** A server whose answers are given one by one, by the test. */
function slowServer(read: () => App = () => appWith(content, "one")) {
  const calls: { content: Content; hash: string; answer: (app: App) => void; refuse: (error: unknown) => void }[] = [];
  const told: App[] = [];
  const store = new DraftStore(appWith(content, "one"), {
    read: async () => read(),
    store: (content, hash) =>
      new Promise((answer, refuse) => {
        calls.push({ content, hash, answer, refuse });
      }),
    putLive: async (live) => ({ ...appWith(live, "live"), liveRevision: 2 }),
    tell: (app) => told.push(app),
    problemIn: (error) => error as ReturnType<typeof problemDocument>,
  });
  return { store, calls, told };
}

/** Lets all that waits for nothing but promises go on. */
const settle = () => vi.advanceTimersByTimeAsync(0);

describe("the draft of a tab", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it("is stored a moment after the last keystroke", async () => {
    const { store, calls } = slowServer();
    store.edit({ prompt: "B" });
    await vi.advanceTimersByTimeAsync(399);
    store.edit({ prompt: "Be" });
    await vi.advanceTimersByTimeAsync(399);
    expect(calls).toHaveLength(0);
    await vi.advanceTimersByTimeAsync(1);
    expect(calls.map(({ content, hash }) => [content.prompt, hash])).toEqual([["Be", "one"]]);
  });

  it("is stored one edit after another, each with the hash that the one before gave", async () => {
    const { store, calls, told } = slowServer();
    store.edit({ prompt: "Be" });
    const first = store.save();
    await settle();
    store.edit({ prompt: "Be brief." });
    const second = store.save();
    await settle();
    expect(calls).toHaveLength(1);
    calls[0]?.answer(appWith({ ...content, prompt: "Be" }, "two"));
    await first;
    await settle();
    expect(calls[1]).toMatchObject({ hash: "two", content: { prompt: "Be brief." } });
    calls[1]?.answer(appWith({ ...content, prompt: "Be brief." }, "three"));
    await second;
    expect(store.isUnstored).toBe(false);
    expect(told.map(({ draftHash }) => draftHash)).toEqual(["two", "three"]);
  });

  it("loses nothing where it can't be stored, says why, and stores it when it can", async () => {
    const { store, calls } = slowServer();
    store.edit({ prompt: "Be brief." });
    const kept = store.keep();
    await settle();
    calls[0]?.refuse(problemDocument(problem("internal", "The server is away.")));
    await kept;
    expect(store.state).toMatchObject({
      content: { prompt: "Be brief." },
      failure: { detail: "The draft is not stored. The server is away." },
    });
    const again = store.keep();
    await settle();
    calls[1]?.answer(appWith(store.state.content, "two"));
    await again;
    expect(store.state.failure).toBeUndefined();
  });

  it("stores nothing more after a conflict until one is chosen", async () => {
    const { store, calls } = slowServer();
    store.edit({ prompt: "Be brief." });
    const kept = store.keep();
    await settle();
    calls[0]?.refuse({
      ...problemDocument(problem("conflict", "It was changed.")),
      draft: { content: { ...content, prompt: "Be kind." }, hash: "two", parts: ["system prompt"] },
    });
    await kept;
    await expect(store.save()).rejects.toThrow("changed in another place");
    expect(calls).toHaveLength(1);
    const chosen = store.choose("mine");
    await settle();
    expect(calls[1]).toMatchObject({ hash: "two", content: { prompt: "Be brief." } });
    calls[1]?.answer(appWith(store.state.content, "three"));
    await chosen;
    expect(store.state).toMatchObject({ conflict: undefined, failure: undefined, hash: "three" });
  });

  it("shows what another tab stored, and stores nothing for that", async () => {
    const { store, calls } = slowServer(() => appWith({ ...content, prompt: "Be kind." }, "two"));
    await store.hear("two");
    expect(store.state.content.prompt).toBe("Be kind.");
    await vi.advanceTimersByTimeAsync(1_000);
    expect(calls).toHaveLength(0);
  });

  it("reads nothing for what it stored itself, however late it hears of that", async () => {
    const read = vi.fn(() => appWith(content, "never"));
    const { store, calls } = slowServer(read);
    store.edit({ prompt: "Be" });
    const kept = store.keep();
    await settle();
    const heard = store.hear("two");
    store.edit({ prompt: "Be brief." });
    calls[0]?.answer(appWith({ ...content, prompt: "Be" }, "two"));
    await Promise.all([kept, heard]);
    expect(read).not.toHaveBeenCalled();
    expect(store.state).toMatchObject({ hash: "two", conflict: undefined, content: { prompt: "Be brief." } });
  });
});
