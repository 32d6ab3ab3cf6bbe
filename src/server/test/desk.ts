import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { text } from "node:stream/consumers";
import type { Tool } from "@/core/tools/tool";

/** A desk that tools ask: what a crossing costs, and when high water is. */
export class Desk {
  /** What it was asked, in order. */
  readonly asked: string[] = [];
  /** What it says to a call. */
  answer: (path: string, body: { place?: string }) => Promise<string> = async (path, { place }) =>
    answerTo(path, place);

  private constructor(private readonly server: Server) {}

  static async start(): Promise<Desk> {
    const server = createServer();
    const desk = new Desk(server);
    server.on("request", async (request, response) => {
      const body = await text(request);
      desk.asked.push(`${request.url} ${body}`);
      response.end(await desk.answer(request.url ?? "", JSON.parse(body)));
    });
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    return desk;
  }

  stop(): void {
    this.server.closeAllConnections();
    this.server.close();
  }

  /** Has it take calls and answer none. */
  fallSilent(): void {
    this.answer = () => new Promise(() => {});
  }

  /** Has it answer again, as at first. */
  speakAgain(): void {
    this.answer = async (path, { place }) => answerTo(path, place);
  }

  /** How a tool is answered by it. */
  at(path: string) {
    const { port } = this.server.address() as AddressInfo;
    return {
      by: "address",
      method: "POST",
      url: `http://127.0.0.1:${port}${path}`,
      allowsThisMachine: true,
    } as const;
  }

  /** The tools that ask it. @param seconds after which one is given up */
  tools(seconds = 20): [fares: Tool, tides: Tool] {
    return [
      {
        name: "fares",
        description: "What a crossing costs.",
        parameters: {
          type: "object",
          properties: { place: { type: "string", enum: ["Brindle", "Tansy Holm", "Far Skerry"] } },
          required: ["place"],
        },
        answer: this.at("/fares"),
        seconds,
      },
      {
        name: "tides",
        description: "When high water is.",
        parameters: { type: "object", properties: {} },
        answer: this.at("/tides"),
        seconds,
      },
    ];
  }
}

function answerTo(path: string, place: string | undefined): string {
  if (path === "/tides") return "High water is at 9:12.";
  return JSON.stringify({ price: place === "Brindle" ? "4.00" : "6.00", currency: "EUR" });
}

/** A question that asks for two tools at once, and for one of them again after that. */
export const askingTwice = "What are the fares to Brindle and to Tansy Holm, and when are the tides?";
