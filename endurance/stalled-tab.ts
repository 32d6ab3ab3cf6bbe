import { type ClientRequest, get, type IncomingMessage } from "node:http";
import type { World } from "../e2e/world";

/** A tab's stream of the bench that can stop reading for a while. */
export class StalledTab {
  private text = "";

  private constructor(
    private readonly request: ClientRequest,
    private readonly response: IncomingMessage,
  ) {
    response.on("data", (part) => {
      this.text += part;
    });
  }

  static open(world: World): Promise<StalledTab> {
    return new Promise((resolve, reject) => {
      const request = get(`${world.address}/api/bench/stream`, (response) =>
        resolve(new StalledTab(request, response)),
      );
      request.on("error", reject);
    });
  }

  stall(): void {
    this.response.pause();
  }

  goOn(): void {
    this.response.resume();
  }

  close(): void {
    this.request.destroy();
  }

  /** The positions of all that was heard, and whether that was said to be behind something that was missed. */
  get heard(): { at: number; isBehind: boolean }[] {
    const found = this.text.matchAll(/^id: (\d+)\n(event: behind)?/gm);
    return [...found].map(([, at, behind]) => ({ at: Number(at), isBehind: behind !== undefined }));
  }

  /** Positions that were missed without a word. */
  get holes(): number[] {
    const { heard } = this;
    return heard
      .slice(1)
      .flatMap(({ at, isBehind }, before) => (isBehind || at === (heard[before]?.at ?? 0) + 1 ? [] : [at]));
  }
}

/** Has an app say so many long stories at once, and waits for them. */
export async function speak(world: World, slug: string, count: number): Promise<void> {
  const body = JSON.stringify({ message: "Write a very long story of a crossing, as long as you can" });
  const ask = async () => (await fetch(`${world.address}/api/apps/${slug}/replies`, { method: "POST", body })).text();
  await Promise.all(Array.from({ length: count }, ask));
}
