import { connect } from "node:net";
import type { NumberedEvent } from "@/core/reply/events";
import { eventsOf, expect, test, World } from "../e2e/fixtures";

/** What a server answers to bytes, once it closes the connection; and the milliseconds that it took. */
function answerTo(world: World, bytes: string): Promise<{ text: string; ms: number }> {
  const { hostname, port } = new URL(world.address);
  const began = performance.now();
  return new Promise((resolve, reject) => {
    let text = "";
    const socket = connect(Number(port), hostname, () => socket.write(bytes));
    socket.on("data", (part) => {
      text += part;
    });
    socket.on("error", reject);
    socket.on("close", () => resolve({ text, ms: performance.now() - began }));
  });
}

/** Reads a reply until its text arrives. */
async function readUntilText(reading: AsyncGenerator<NumberedEvent>): Promise<void> {
  for (;;) {
    const { done, value } = await reading.next();
    expect(done, "the reply ended without a text").toBe(false);
    if (value.event === "text") return;
  }
}

/** Which event is the last of those that still come, of a reply whose text arrives. */
async function lastOf(reading: AsyncGenerator<NumberedEvent>): Promise<string> {
  let last = "text";
  try {
    for await (const { event } of reading) last = event;
  } catch {
    // broken off, which is what is wanted
  }
  return last;
}

test("a proxy that is named on this machine locks nobody out, and what it passes on is told from what comes from here", async () => {
  const world = await World.make();
  try {
    await world.startWeb({ FINCH_PROXIES: "127.0.0.1" });
    const status = async (path: string, headers: Record<string, string> = {}) =>
      (await fetch(world.address + path, { headers })).status;
    expect(await status("/api/health")).toBe(200);
    expect(await status("/api/bench/apps")).toBe(200);
    const passedOn = { "x-forwarded-for": "9.9.9.9", "x-forwarded-host": "desk.test" };
    expect(await status("/api/bench/apps", passedOn)).toBe(403);
  } finally {
    await world.stop();
  }
});

test("a call with two Hosts is refused, and one whose body never comes is closed", async ({ world }) => {
  const call = (hosts: string[], more: string, body = "") =>
    `POST /api/bench/apps HTTP/1.1\r\n${hosts.map((host) => `host: ${host}\r\n`).join("")}${more}\r\n${body}`;
  const { host } = new URL(world.address);
  // what is waited for goes on while the rest is tried
  const silent = answerTo(world, call([host], "content-type: application/json\r\ncontent-length: 50\r\n"));
  const twice = await answerTo(world, call([host, "evil.test"], "connection: close\r\ncontent-length: 2\r\n", "{}"));
  expect(twice.text).toMatch(/^HTTP\/1\.1 400 /);
  expect(twice.text).toContain("more than one Host");
  expect((await silent).text).toContain("did not come whole within 30 s");
});

test("a token that is revoked ends what is being read under it, tickets too", async ({ world }) => {
  const slug = await world.makeApp("Revoked", { settings: { maxOutput: 2_000 } });
  await world.pace(20);
  const {
    token: { id },
    text,
  } = await world.bench<{ token: { id: string }; text: string }>("POST", `apps/${slug}/tokens`, {
    kind: "server",
    name: "Mine",
  });
  const endpoint = `${world.address}/api/apps/${slug}/replies`;
  const headers = { authorization: `Bearer ${text}`, "finch-visitor": "ada" };
  const body = JSON.stringify({ message: "Tell me a long story about the ferry" });
  const later = await fetch(endpoint, { method: "POST", headers: { ...headers, prefer: "respond-async" }, body });
  const { events } = (await later.json()) as { events: string };
  const streams = [
    await fetch(endpoint, { method: "POST", headers: { ...headers, accept: "text/event-stream" }, body }),
    await fetch(events, { headers: { accept: "text/event-stream" } }),
  ];
  const readings = streams.map(eventsOf);
  for (const reading of readings) await readUntilText(reading);
  await world.bench("DELETE", `apps/${slug}/tokens/${id}`);
  expect(await Promise.all(readings.map(lastOf))).toEqual(["text", "text"]);
  expect((await fetch(events, { headers: { accept: "text/event-stream" } })).status).toBe(401);
});
