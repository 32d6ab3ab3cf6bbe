import type { NumberedEvent } from "@/core/reply/events";
import { eventsOf, type World } from "../e2e/world";

/** A caller of an app, who keeps the cookie that says who one is. */
export class Caller {
  cookie = "";

  constructor(
    private readonly world: World,
    private readonly slug: string,
  ) {}

  /** Calls an endpoint of the app. */
  async call(path: string, init: RequestInit & { headers?: Record<string, string> } = {}): Promise<Response> {
    const response = await fetch(`${this.world.address}/api/apps/${this.slug}/${path}`, {
      ...init,
      headers: { ...init.headers, ...(this.cookie ? { cookie: this.cookie } : {}) },
      signal: init.signal ?? AbortSignal.timeout(30_000),
    });
    this.cookie = response.headers.get("set-cookie")?.split(";")[0] ?? this.cookie;
    return response;
  }

  ask(body: object, headers: Record<string, string> = {}): Promise<Response> {
    return this.call("replies", { method: "POST", body: JSON.stringify(body), headers });
  }
}

/** Reads a stream as far as it goes, and gives what was had of it. */
export async function readAll(response: Response, had: NumberedEvent[] = []): Promise<NumberedEvent[]> {
  try {
    for await (const event of eventsOf(response)) had.push(event);
  } catch {
    // the server was killed, or what was read was deleted: what was had until then is what counts
  }
  return had;
}

/** Whether an app answers a plain question as it should. */
export async function sings(world: World, slug: string): Promise<string | undefined> {
  try {
    const response = await new Caller(world, slug).ask({ message: "What is 12 * 7?" });
    const answer = (await response.json()) as { text?: string; detail?: string };
    return answer.text?.includes("84")
      ? undefined
      : `the canary of ${slug} said ${JSON.stringify(answer).slice(0, 200)}`;
  } catch (error) {
    return `the canary of ${slug} got no answer: ${(error as Error).message}`;
  }
}
