import { readFileSync } from "node:fs";
import { createServer, type IncomingMessage } from "node:http";
import { z } from "zod";
import { sitePort } from "./seed-documents";

/**
 * The site of the sample line, as the demo has it: the page that Harbour Desk answers from, which is read from its file at
 * each call, and the desk behind the tools of Quay Desk, which counts the places that are left.
 */
const page = "demo/harbour-desk/documents/access.html";
const sailingSchema = z.object({ boat: z.string(), to: z.string(), seats: z.int(), bicycles: z.int() });
const sailings = z
  .record(z.string(), sailingSchema)
  .parse(JSON.parse(readFileSync("demo/quay-desk/sailings.json", "utf8")));
const bookingSchema = z.object({
  boat: z.string(),
  seats: z.int().min(1).max(20),
  bicycles: z.int().min(0).default(0),
});
let booked = 16;

/** Characters of a booking that are read. */
const longest = 10_000;

type Answer = [status: number, type: string, text: string];
const json = (status: number, value: object): Answer => [status, "application/json", JSON.stringify(value)];

/** Times are written 9:40 and 09:40. */
function sailingAt(time: string) {
  const at = time.replace(/^0/, "").replace(".", ":");
  return sailings[at] ? { at, sailing: sailings[at] } : undefined;
}

async function bodyOf(request: IncomingMessage): Promise<unknown> {
  let text = "";
  for await (const part of request) {
    text += part;
    if (text.length > longest) return undefined;
  }
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

async function answer(request: IncomingMessage): Promise<Answer> {
  const { pathname } = new URL(request.url ?? "/", "http://localhost");
  if (pathname === "/access.html") return [200, "text/html; charset=utf-8", readFileSync(page, "utf8")];
  const time = /^\/sailings\/([^/]+)$/.exec(pathname)?.[1];
  if (time !== undefined) {
    const found = sailingAt(decodeURIComponent(time));
    if (!found) return json(404, { wrong: `No boat leaves Mill Quay at ${decodeURIComponent(time)}.` });
    return json(200, found.sailing);
  }
  if (pathname === "/bookings" && request.method === "POST") {
    const wanted = bookingSchema.safeParse(await bodyOf(request));
    if (!wanted.success) return json(400, { wrong: "A booking names a boat by its time, and from 1 to 20 seats." });
    const { boat, seats, bicycles } = wanted.data;
    const found = sailingAt(boat);
    if (!found) return json(404, { wrong: `No boat leaves Mill Quay at ${boat}.` });
    const { sailing } = found;
    if (sailing.seats < seats || sailing.bicycles < bicycles)
      return json(409, {
        wrong: `The ${found.at} has ${sailing.seats} seats and ${sailing.bicycles} places for bicycles left.`,
      });
    sailing.seats -= seats;
    sailing.bicycles -= bicycles;
    booked += 1;
    return json(201, { number: booked, boat: found.at, to: sailing.to, seats, bicycles });
  }
  return [404, "text/plain", "There are /access.html, /sailings/{time} and POST /bookings.\n"];
}

createServer(async (request, response) => {
  const [status, type, text] = await answer(request);
  response.writeHead(status, { "content-type": type, "cache-control": "no-store" }).end(text);
}).listen(sitePort, "127.0.0.1");
