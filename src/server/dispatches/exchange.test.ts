import type { RequestListener } from "node:http";
import { afterEach, describe, expect, it } from "vitest";
import { usualLimits } from "@/contract/providers";
import type { AnswerHead } from "@/core/wire/decode";
import { TestProvider } from "../test-provider";
import { exchange } from "./exchange";

let server: TestProvider | undefined;
afterEach(() => {
  server?.stop();
});

async function serving(answer: RequestListener): Promise<string> {
  server = await TestProvider.start(answer);
  return server.address;
}

interface Outcome {
  head?: AnswerHead;
  text: string;
  end: string;
}

function outcomeOf(url: string, limits = usualLimits): Promise<Outcome> {
  return new Promise((resolve) => {
    const outcome: Outcome = { text: "", end: "" };
    exchange({ method: "POST", url, headers: { "x-test": "1" }, body: "{}" }, limits, {
      head: (head) => {
        outcome.head = head;
      },
      bytes: (bytes) => {
        outcome.text += bytes.toString();
      },
      close: () => resolve({ ...outcome, end: "close" }),
      fail: ({ kind, detail }) => resolve({ ...outcome, end: `${kind}: ${detail}` }),
    });
  });
}

describe("an exchange with a provider", () => {
  it("tells the head, the bytes and the close", async () => {
    const url = await serving((_request, response) => {
      response.writeHead(200, { "content-type": "text/plain", "retry-after": "7" });
      response.write("one ");
      response.end("two");
    });
    expect(await outcomeOf(url)).toEqual({
      head: {
        status: 200,
        contentType: "text/plain",
        retryAfter: 7,
        headers: expect.objectContaining({ "retry-after": "7" }),
      },
      text: "one two",
      end: "close",
    });
  });

  it("does not follow a redirect", async () => {
    const asked: string[] = [];
    const url = await serving((request, response) => {
      asked.push(request.url ?? "");
      response.writeHead(302, { location: "/elsewhere" }).end();
    });
    expect((await outcomeOf(url)).head?.status).toBe(302);
    expect(asked).toEqual(["/"]);
  });

  it.each([
    ["first", { first: 120 }, () => {}],
    ["between", { between: 120 }, (_request, response) => response.write("a")],
    [
      "all",
      { all: 200 },
      (_request, response) => {
        const timer = setInterval(() => response.write("a"), 20);
        response.on("close", () => clearInterval(timer));
      },
    ],
  ] as [string, object, RequestListener][])("names the limit %s when it runs out", async (name, limits, answer) => {
    const outcome = await outcomeOf(await serving(answer), { ...usualLimits, ...limits });
    expect(outcome.end).toMatch(new RegExp(`^timed-out: .*the limit \`${name}\``));
  });

  it("says why a provider can't be reached", async () => {
    expect((await outcomeOf("http://127.0.0.1:1")).end).toBe(
      "unreachable: http://127.0.0.1:1 could not be reached: nothing listens there.",
    );
  });

  it("sends once more when a kept connection was closed as it was used again", async () => {
    let calls = 0;
    const url = await serving((request, response) => {
      calls += 1;
      if (calls === 2) return request.socket.destroy();
      response.end("aye");
    });
    expect((await outcomeOf(url)).text).toBe("aye");
    expect((await outcomeOf(url)).text).toBe("aye");
    expect(calls).toBe(3);
  });

  it("resolves an abort when the connection is closed, and tells nothing after it", async () => {
    let closed = false;
    const url = await serving((_request, response) => {
      response.write("a");
      response.on("close", () => {
        closed = true;
      });
    });
    const told: string[] = [];
    await new Promise<void>((resolve) => {
      const under = exchange({ method: "GET", url, headers: {} }, usualLimits, {
        head: () => {},
        bytes: () => void under.abort().then(resolve),
        close: () => told.push("close"),
        fail: () => told.push("fail"),
      });
    });
    await expect.poll(() => closed).toBe(true);
    expect(told).toEqual([]);
  });
});
