import { type ClientRequest, get, type IncomingMessage } from "node:http";
import type { World } from "../e2e/world";

/** A tab's stream of the bench that can stop reading for a while; where it is broken off, it comes back by the last position it had. */
export class StalledTab {
  private text = "";
  private request: ClientRequest | undefined;
  private response: IncomingMessage | undefined;
  private isClosed = false;

  private constructor(private readonly address: string) {}

  static async open(world: World): Promise<StalledTab> {
    const tab = new StalledTab(`${world.address}/api/bench/stream`);
    await tab.connect();
    return tab;
  }

  stall(): void {
    this.response?.pause();
  }

  goOn(): void {
    this.response?.resume();
  }

  close(): void {
    this.isClosed = true;
    this.request?.destroy();
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

  private connect(): Promise<void> {
    const last = this.heard.at(-1);
    return new Promise((resolve, reject) => {
      this.request = get(this.address, { headers: last && { "last-event-id": String(last.at) } }, (response) => {
        this.response = response;
        response.on("data", (part) => {
          this.text += part;
        });
        response.on("error", () => {});
        response.on("close", () => this.comeBack());
        resolve();
      });
      this.request.on("error", reject);
    });
  }

  private comeBack(): void {
    if (this.isClosed) return;
    // what came of an event that was cut off does not count
    this.text = this.text.slice(0, this.text.lastIndexOf("\n\n") + 2);
    void this.connect();
  }
}

/** Has an app say so many long stories at once, and waits for them. */
export async function speak(world: World, slug: string, count: number): Promise<void> {
  const body = JSON.stringify({ message: "Write a very long story of a crossing, as long as you can" });
  const ask = async () => (await fetch(`${world.address}/api/apps/${slug}/replies`, { method: "POST", body })).text();
  await Promise.all(Array.from({ length: count }, ask));
}
