import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import type { Piece } from "@/core/conversation/pieces";
import { expect, test, World } from "../e2e/fixtures";

/** How often the server is killed; many more where somebody has the time. */
const kills = Number(process.env.FINCH_KILLS ?? 3);
/** Replies that are under way at each kill. */
const atOnce = 4;

test("a tool that counts its calls shows none that was made twice, whenever the server is killed, and what is unknown says so", async () => {
  test.setTimeout(60_000 + kills * 30_000);
  const counted = new Map<string, number>();
  const desk = createServer((request, response) => {
    const id = new URL(request.url ?? "/", "http://desk").searchParams.get("number") ?? "";
    counted.set(id, (counted.get(id) ?? 0) + 1);
    // some answers come before the kill, and some do not
    setTimeout(() => response.end(`number ${id} is booked`), 40 * (counted.size % 4));
  });
  await new Promise<void>((resolve) => desk.listen(0, "127.0.0.1", resolve));
  const world = await World.make();
  await world.start();
  try {
    await world.pace("instant");
    const url = `http://127.0.0.1:${(desk.address() as AddressInfo).port}/`;
    const answer = { by: "address" as const, method: "GET" as const, url, allowsThisMachine: true as const };
    const parameters = { type: "object", properties: { number: { type: "integer" } }, required: ["number"] };
    const tools = [{ name: "book", description: "Books a number", parameters, answer }];
    const slug = await world.makeApp("Killed often", { model: "reed-deep", tools });
    const replies = `${world.address}/api/apps/${slug}/replies`;
    const visitor = { "finch-visitor": "ada" };
    const seen = { answered: 0, unknown: 0, none: 0 };
    for (let kill = 0; kill < kills; kill++) {
      const numbers = Array.from({ length: atOnce }, (_, at) => 100 + kill * atOnce + at);
      const before = counted.size;
      const asked = await Promise.all(
        numbers.map(async (number) => {
          const body = JSON.stringify({ message: `Book number ${number}.` });
          const headers = { ...visitor, prefer: "respond-async" };
          return (await (await fetch(replies, { method: "POST", headers, body })).json()) as { conversation: string };
        }),
      );
      // now before any call, now with some answered
      const wanted = before + (kill % (atOnce + 1));
      await expect.poll(() => counted.size, { intervals: [2] }).toBeGreaterThanOrEqual(wanted);
      const callOf = async (conversation: string) => {
        const line = await fetch(`${world.address}/api/apps/${slug}/conversations/${conversation}`, {
          headers: visitor,
        });
        const { messages } = (await line.json()) as { messages: { pieces: Piece[] }[] };
        return messages.at(-1)?.pieces.filter((piece) => piece.kind === "tool") ?? [];
      };
      if (kill % 2 === 1)
        await expect.poll(async () => (await callOf(asked[0]?.conversation ?? ""))[0]?.outcome).toBe("answered");
      await world.killWeb();
      await world.startWeb();
      for (const [at, { conversation }] of asked.entries()) {
        const number = String(numbers[at]);
        const [call, ...more] = await callOf(conversation);
        const made = counted.get(number) ?? 0;
        expect([number, made <= 1, more]).toEqual([number, true, []]);
        if (call === undefined) seen.none += 1;
        else if (call.outcome === "answered") seen.answered += 1;
        else {
          expect([number, call.outcome]).toEqual([number, "unknown"]);
          seen.unknown += 1;
        }
        // what was written as asked for may have happened; what was not, has not
        if (call === undefined || call.outcome === "answered")
          expect([number, made]).toEqual([number, call === undefined ? 0 : 1]);
      }
    }
    console.log(`${kills} kills with ${atOnce} replies each:`, JSON.stringify(seen));
    expect(seen.answered + seen.unknown + seen.none).toBe(kills * atOnce);
    // nothing is made again later either
    expect([...counted.values()].every((times) => times === 1)).toBe(true);
  } finally {
    desk.close();
    await world.stop();
  }
});
