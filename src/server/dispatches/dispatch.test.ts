import { describe, expect, it } from "vitest";
import { toldAll } from "@/core/reply/told";
import { dispatchesOf } from "../answers/dispatches";
import { wholeAnswer } from "../answers/replies";
import { sendAgain } from "../probing/again";
import { ask, bench } from "../replies/ask";
import { streams, TestApp, testKey } from "../test/app";
import { thin } from "./thinning";

const on = TestApp.each();

describe("a dispatch", () => {
  it("is shown with its ledger, its request without the key, its arrivals and what was read", async () => {
    on.respond = streams(["The ", "9:40."]);
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await wholeAnswer(on.home, reply, toldAll);
    on.home.dispatches.setReader(reply, [
      [5, 4],
      [300, 5],
    ]);
    const [shown] = dispatchesOf(on.home, reply);
    expect(shown).toMatchObject({ attempt: 1, status: 200, end: "complete", text: "The 9:40.", isThinned: false });
    expect(shown?.request.headers.authorization).toBe("Bearer ••••");
    expect(shown?.curl).toContain("Bearer $TEST_KEY");
    expect(shown?.arrivals.flatMap(({ read }) => read)).toEqual([
      "text: The ",
      "text: 9:40.",
      "usage: 30 input, 4 output",
      "end: complete",
    ]);
    expect(shown?.ledger?.entries.map(({ part, text }) => [part, text])).toEqual([
      ["beside", ""],
      ["messages", "Hello"],
    ]);
    expect(shown?.reader).toHaveLength(2);
  });

  it("is sent again as it was edited, with the key, and only to its own provider", async () => {
    on.respond = streams(["Aye."]);
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await wholeAnswer(on.home, reply, toldAll);
    const [first] = dispatchesOf(on.home, reply);
    if (!first) throw new Error("There is no dispatch.");
    const { url, headers } = first.request;
    const body = JSON.stringify({ model: "edited" });
    const answer = await sendAgain(on.home, first.id, { url, headers, body }, new AbortController().signal);
    expect(answer).toMatchObject({ status: 200, text: expect.stringContaining("Aye."), problem: null });
    expect(on.requests[1]).toMatchObject({ headers: { authorization: `Bearer ${testKey}` }, body });
    expect(on.home.dispatches.ofReply(reply)).toHaveLength(1);
    // below the address of the provider, above it and beside it
    for (const path of ["/v2/other?a=1", "/"]) {
      const other = new URL(path, url).href;
      await sendAgain(on.home, first.id, { url: other, headers, body }, new AbortController().signal);
      expect(on.requests.at(-1)?.url).toBe(path);
    }
    const withLogin = { url: url.replace("http://", "http://name:password@"), headers, body };
    await expect(sendAgain(on.home, first.id, withLogin, new AbortController().signal)).rejects.toThrow(
      /holds a name or a password/,
    );
    const elsewhere = { url: "http://127.0.0.1:9/x", headers, body };
    await expect(sendAgain(on.home, first.id, elsewhere, new AbortController().signal)).rejects.toThrow(
      /can be sent to http:\/\/127.0.0.1:\d+ only/,
    );
  });

  it("keeps its ledger, usage and outcome when its bytes are thinned out", async () => {
    on.respond = streams(["Aye."]);
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await wholeAnswer(on.home, reply, toldAll);
    await on.home.packing.start();
    expect(on.home.dispatches.sizes().count).toBe(1);
    expect(await thin(on.home, Date.now() + 1)).toBe(1);
    expect(dispatchesOf(on.home, reply)[0]).toMatchObject({
      isThinned: true,
      arrivals: [],
      end: "complete",
      usage: { input: 30 },
      request: { body: "" },
    });
    expect(on.home.dispatches.sizes()).toEqual({ count: 0, bytes: 0 });
  });
});
