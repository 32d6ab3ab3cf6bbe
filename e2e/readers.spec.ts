import { spawn } from "node:child_process";
import { EventSource } from "eventsource";
import type { NumberedEvent } from "@/core/reply/events";
import { allEvents, expect, test, textIn, type World } from "./fixtures";
import { openWay } from "./way";

const story = { message: "Tell me about the ferry, please, in four sentences" };
const stream = { accept: "text/event-stream" };
const ada = { "finch-visitor": "ada" };

/** The events in a stream's text, as far as they are whole. */
function eventsIn(text: string): NumberedEvent[] {
  return text.split("\n\n").flatMap((block) => {
    const [, id] = /^id: (\d+)$/m.exec(block) ?? [];
    const [, event] = /^event: (\w+)$/m.exec(block) ?? [];
    const [, data] = /^data: (.*)$/m.exec(block) ?? [];
    return id && event && data ? [{ id: Number(id), event, data: JSON.parse(data) } as NumberedEvent] : [];
  });
}

/** All events of the latest reply, read at once. */
async function whole(world: World, slug: string, reply: string): Promise<NumberedEvent[]> {
  return allEvents(
    await fetch(`${world.address}/api/apps/${slug}/replies/${reply}`, { headers: { ...ada, ...stream } }),
  );
}

const replyOf = ([head]: NumberedEvent[]): string => (head?.event === "reply" ? head.data.reply : "");

/** Runs curl, and ends it once so much has come. */
function curl(args: string[], enough = Number.POSITIVE_INFINITY): Promise<string> {
  return new Promise((resolve) => {
    const child = spawn("curl", ["-sSN", ...args]);
    let out = "";
    child.stdout.on("data", (part) => {
      out += part;
      if (out.length > enough) child.kill();
    });
    child.once("close", () => resolve(out));
  });
}

test.describe("a stream that was cut is gone on with by the last id", () => {
  test("from curl", async ({ world }) => {
    const slug = await world.makeApp("Curl");
    await world.pace(15);
    const headers = ["-H", "finch-visitor: ada", "-H", "accept: text/event-stream"];
    const replies = `${world.address}/api/apps/${slug}/replies`;
    const first = eventsIn(await curl([...headers, "-d", JSON.stringify(story), replies], 1_200));
    const last = first.at(-1)?.id ?? 0;
    const rest = eventsIn(await curl([...headers, "-H", `last-event-id: ${last}`, `${replies}/${replyOf(first)}`]));
    expect(rest.at(-1)?.event).toBe("end");
    expect([...first, ...rest]).toEqual(await whole(world, slug, replyOf(first)));
    // what curl lost of its last block is in the rest: nothing came twice, and nothing is missing
    expect(textIn([...first, ...rest])).toBe((await world.calls()).at(-1)?.said);
  });

  test("from Node", async ({ world }) => {
    const slug = await world.makeApp("Node");
    await world.pace(40);
    const way = await openWay(Number(new URL(world.address).port));
    const replies = `${way.address}/api/apps/${slug}/replies`;
    const response = await fetch(replies, {
      method: "POST",
      headers: { ...ada, ...stream },
      body: JSON.stringify(story),
    });
    let text = "";
    const reading = (async () => {
      for await (const part of response.body as unknown as AsyncIterable<Uint8Array>) {
        text += new TextDecoder().decode(part);
        if (text.length > 1_200) way.cut();
      }
    })();
    await expect(reading).rejects.toThrow();
    const first = eventsIn(text);
    const headers = { ...ada, ...stream, "last-event-id": String(first.at(-1)?.id) };
    const rest = await allEvents(await fetch(`${replies}/${replyOf(first)}`, { headers }));
    expect([...first, ...rest]).toEqual(await whole(world, slug, replyOf(first)));
    await way.close();
  });

  test("from Chromium", async ({ page, world }) => {
    const slug = await world.makeApp("Chromium");
    // slow enough for a browser to say that it has enough before all is there
    await world.pace(15);
    const way = await openWay(Number(new URL(world.address).port));
    await page.goto(`${way.address}/api/health`);
    await page.exposeFunction("cut", () => way.cut());
    const [first, rest] = await page.evaluate(
      async ([path, body]) => {
        const headers = { "finch-visitor": "ada", accept: "text/event-stream" };
        const read = async (response: Response, enough: number) => {
          const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
          let text = "";
          try {
            for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) {
              text += part.value;
              if (text.length > enough) await (window as unknown as { cut: () => Promise<void> }).cut();
            }
          } catch {
            return text;
          }
          return text;
        };
        const begun = await read(await fetch(path, { method: "POST", headers, body }), 1_200);
        const ids = [...begun.matchAll(/^id: (\d+)\n.*\n.*\n\n/gm)];
        const [, reply] = /"reply":"(\w+)"/.exec(begun) ?? [];
        const again = { ...headers, "last-event-id": ids.at(-1)?.[1] ?? "0" };
        return [begun, await read(await fetch(`${path}/${reply}`, { headers: again }), Number.POSITIVE_INFINITY)];
      },
      [`/api/apps/${slug}/replies`, JSON.stringify(story)] as const,
    );
    const [begun, gone] = [eventsIn(first ?? ""), eventsIn(rest ?? "")];
    expect(gone[0]?.id).toBe((begun.at(-1)?.id ?? 0) + 1);
    expect([...begun, ...gone]).toEqual(await whole(world, slug, replyOf(begun)));
    await way.close();
  });

  test("from an EventSource, by itself", async ({ world }) => {
    const slug = await world.makeApp("Source");
    await world.pace(40);
    const way = await openWay(Number(new URL(world.address).port));
    const asked = await fetch(`${way.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { ...ada, prefer: "respond-async" },
      body: JSON.stringify(story),
    });
    const { events, reply } = (await asked.json()) as { events: string; reply: string };
    const source = new EventSource(events);
    const came: NumberedEvent[] = [];
    let opened = 0;
    source.addEventListener("open", () => {
      opened += 1;
    });
    for (const event of ["reply", "text", "usage"] as const)
      source.addEventListener(event, ({ lastEventId, data }) => {
        came.push({ id: Number(lastEventId), event, data: JSON.parse(data) } as NumberedEvent);
        if (came.length === 8) way.cut();
      });
    await new Promise<void>((resolve) => source.addEventListener("end", () => resolve()));
    expect(opened).toBe(2);
    expect(came).toEqual((await whole(world, slug, reply)).slice(0, -1));
    // it comes back once more, is told that nothing is left, and ends
    await expect.poll(() => source.readyState).toBe(source.CLOSED);
    await way.close();
  });
});
