import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import type { World } from "./world";

/** What it says: an error of its own, which no profile names, or calls of tools that nobody offered. */
const says = {
  error: [
    '{"choices":[{"index":0,"delta":{"content":"The 9:40 "}}]}',
    '{"error":{"message":"sand in the gears","code":"E-7"}}',
  ],
  tools: [
    '{"choices":[{"index":0,"delta":{"tool_calls":[{"index":0,"id":"c","function":{"name":"fares","arguments":"{}"}}]}}]}',
    '{"choices":[{"index":0,"delta":{},"finish_reason":"tool_calls"}]}',
    "[DONE]",
  ],
};

/** A provider that ends every reply in the same bad way. */
export class Gears {
  private readonly server = createServer((_request, response) => {
    response.writeHead(200, { "content-type": "text/event-stream" });
    response.end(says[this.way].map((event) => `data: ${event}\n\n`).join(""));
  });

  private constructor(private readonly way: keyof typeof says) {}

  static async start(way: keyof typeof says = "error"): Promise<Gears> {
    const gears = new Gears(way);
    await new Promise<void>((resolve) => gears.server.listen(0, "127.0.0.1", resolve));
    return gears;
  }

  /** An app that speaks through it. */
  async makeApp(world: World, name: string): Promise<string> {
    const { id } = await world.bench<{ id: string }>("POST", "providers", {
      name: `Gears of ${name}`,
      address: `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`,
      profile: "chat-completions",
      credential: { kind: "none" },
      models: [{ name: "gear-one", window: 8_000, price: { input: 1, output: 1, currency: "EUR" } }],
    });
    return world.makeApp(name, { provider: id, model: "gear-one" });
  }

  stop(): void {
    this.server.closeAllConnections();
    this.server.close();
  }
}
