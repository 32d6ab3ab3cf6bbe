import type { RequestListener } from "node:http";
import { type AddressInfo, createServer } from "node:net";
import {
  type BrotliCompress,
  createBrotliCompress,
  createDeflate,
  createDeflateRaw,
  createGzip,
  type Deflate,
  type DeflateRaw,
  deflateSync,
  type Gzip,
  gzipSync,
} from "node:zlib";
import { afterEach, describe, expect, it } from "vitest";
import { usualLimits } from "@/core/provider/limits";
import type { AnswerHead } from "@/core/wire/decode";
import { TestProvider } from "../test/provider";
import { exchange } from "./exchange";
import type { Outgoing } from "./outgoing";

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

describe("an answer that was compressed", () => {
  const parts = ["data: one\n\n", "data: zwölf\n\n", "data: three\n\n"];
  const packers: [name: string, pack: () => Gzip | BrotliCompress | Deflate | DeflateRaw][] = [
    ["gzip", createGzip],
    ["br", createBrotliCompress],
    ["deflate", createDeflate],
    ["deflate", createDeflateRaw],
  ];

  it.each(packers)("by %s is read event by event, as it comes", async (name, pack) => {
    let asked: string | undefined;
    const goOn: (() => void)[] = [];
    const url = await serving(async (request, response) => {
      asked = request.headers["accept-encoding"] as string;
      response.writeHead(200, { "content-type": "text/event-stream", "content-encoding": name });
      const packer = pack();
      packer.pipe(response);
      for (const part of parts) {
        packer.write(part);
        packer.flush();
        await new Promise<void>((resolve) => goOn.push(resolve));
      }
      packer.end();
    });
    const heard: string[] = [];
    const end = await new Promise<string>((resolve) => {
      exchange({ method: "GET", url, headers: {} }, usualLimits, {
        head: () => {},
        bytes: (bytes) => {
          heard.push(bytes.toString());
          // the next part is sent only when this one was read
          goOn.shift()?.();
        },
        close: (isWhole) => resolve(`close, whole: ${isWhole}`),
        fail: ({ detail }) => resolve(detail),
      });
    });
    expect([asked, heard, end]).toEqual(["gzip, deflate, br", parts, "close, whole: true"]);
  });

  it("is readable as an error too, and when it was compressed twice", async () => {
    const page = "<h1>Bad gateway</h1>".repeat(50);
    const url = await serving((_request, response) =>
      response
        .writeHead(502, { "content-type": "text/html", "content-encoding": "deflate, gzip" })
        .end(gzipSync(deflateSync(page))),
    );
    expect(await outcomeOf(url)).toMatchObject({ head: { status: 502 }, text: page, end: "close" });
  });

  it("and broke off gives what came, and is not whole", async () => {
    let breakOff = () => {};
    const url = await serving((_request, response) => {
      breakOff = () => response.destroy();
      response.writeHead(200, { "content-encoding": "gzip" });
      const packer = createGzip();
      packer.pipe(response);
      packer.write("the first part");
      packer.flush();
    });
    const whole: boolean[] = [];
    let text = "";
    await new Promise<void>((resolve) => {
      exchange({ method: "GET", url, headers: {} }, usualLimits, {
        head: () => {},
        bytes: (bytes) => {
          text += bytes;
          breakOff();
        },
        close: (isWhole) => {
          whole.push(isWhole);
          resolve();
        },
        fail: () => resolve(),
      });
    });
    expect([text, whole]).toEqual(["the first part", [false]]);
  });

  it.each([
    ["gzip", /not packed as its headers say/],
    ["snow", /packed as “snow”/],
  ])("and is no %s is a problem in words", async (encoding, saying) => {
    const url = await serving((_request, response) =>
      response.writeHead(200, { "content-encoding": encoding }).end("plain text"),
    );
    expect((await outcomeOf(url)).end).toMatch(saying);
  });
});

describe("a request that can't be made", () => {
  it.each([
    [{ url: "http://[" }, /no http or https address/],
    [{ headers: { "x odd": "1" } }, /The header x odd can't be sent/],
    [{ headers: { "x-line": "a\nb" } }, /The header x-line can't be sent/],
    [{ headers: { Expect: "100-continue" } }, /The header Expect can't be sent: it steers the connection/],
  ])("is told in words: %j", async (change, saying) => {
    const outgoing = { method: "POST", url: "http://127.0.0.1:1", headers: {}, ...change } as Outgoing;
    const told = await new Promise<string>((resolve) => {
      exchange(outgoing, usualLimits, {
        head: () => {},
        bytes: () => {},
        close: () => resolve("close"),
        fail: ({ kind, detail }) => resolve(`${kind}: ${detail}`),
      });
    });
    expect(told).toMatch(saying);
    expect(told).toMatch(/^misconfigured/);
  });
});

/** A moment as C's asctime writes it: "Sun Nov  6 08:49:37 1994", which HTTP takes for GMT. */
function asctime(at: number): string {
  const [day = "", date = "", month = "", year = "", clock = ""] = new Date(at).toUTCString().split(/,? /);
  return `${day} ${month} ${String(Number(date)).padStart(2)} ${clock} ${year}`;
}

describe("a wait that a provider asks for", () => {
  it.each([
    ["7", 7],
    ["1e999", undefined],
    ["-3", 0],
    ["tomorrow", undefined],
    ["99999999", undefined],
    ["", undefined],
    [new Date(Date.now() + 90_500).toUTCString(), 90],
    [asctime(Date.now() + 90_500), 90],
  ])("%j is %s seconds", async (header, seconds) => {
    const url = await serving((_request, response) => response.writeHead(429, { "retry-after": header }).end());
    const asked = (await outcomeOf(url)).head?.retryAfter;
    // a date is told to the second
    if (seconds !== 90) expect(asked).toBe(seconds);
    else expect([89, 90, 91]).toContain(asked);
  });
});

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
        at: expect.any(Number),
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

  it("sends once: a call that the provider may have begun is not made again by itself", async () => {
    let calls = 0;
    const url = await serving((request, response) => {
      calls += 1;
      if (calls === 2) return request.socket.destroy();
      response.end("aye");
    });
    expect((await outcomeOf(url)).text).toBe("aye");
    expect((await outcomeOf(url)).end).toMatch(/^broken-off: .* closed the connection before an answer came/);
    expect(calls).toBe(2);
  });

  it("uses another connection where one that was kept open has ended", async () => {
    let calls = 0;
    const sockets = new Set<unknown>();
    const url = await serving((request, response) => {
      calls += 1;
      sockets.add(request.socket);
      response.end("aye", () => setImmediate(() => request.socket.end()));
    });
    const ended = () => [...sockets].every((socket) => (socket as { readableEnded: boolean }).readableEnded);
    for (let call = 0; call < 3; call += 1) {
      expect((await outcomeOf(url)).text).toBe("aye");
      await expect.poll(ended).toBe(true);
    }
    expect([calls, sockets.size]).toEqual([3, 3]);
  });

  it.each([
    ["in chunks", "transfer-encoding: chunked\r\n\r\n8\r\nhalf a r"],
    ["of a known length", "content-length: 20\r\n\r\nhalf a r"],
    ["without a length", "connection: close\r\n\r\nhalf a r"],
  ])("does not take an answer %s that was cut off for a whole one", async (_how, answer) => {
    let cutOff = () => {};
    const cutting = createServer((socket) => {
      cutOff = () => void socket.resetAndDestroy();
      socket.once("data", () => socket.write(`HTTP/1.1 200 OK\r\n${answer}`));
    });
    await new Promise<void>((resolve) => cutting.listen(0, "127.0.0.1", resolve));
    const url = `http://127.0.0.1:${(cutting.address() as AddressInfo).port}`;
    let text = "";
    const whole = await new Promise<boolean | string>((resolve) => {
      exchange({ method: "GET", url, headers: {} }, usualLimits, {
        head: () => {},
        bytes: (bytes) => {
          text += bytes;
          cutOff();
        },
        close: resolve,
        fail: ({ detail }) => resolve(detail),
      });
    });
    cutting.close();
    expect([text, whole]).toEqual(["half a r", false]);
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
