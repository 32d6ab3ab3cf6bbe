import { createServer, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { text } from "node:stream/consumers";
import type { Tool } from "@/core/tools/tool";

/** A desk that tools ask: what a crossing costs, and when high water is. */
export class Desk {
  /** What it was asked, in order. */
  readonly asked: string[] = [];
  /** Whether it takes calls and answers none. */
  isSilent = false;
  private readonly waiting: ServerResponse[] = [];

  private constructor(private readonly server: Server) {}

  static async start(): Promise<Desk> {
    const server = createServer();
    const desk = new Desk(server);
    server.on("request", async (request, response) => {
      const body = await text(request);
      desk.asked.push(`${request.url} ${body}`);
      if (desk.isSilent) desk.waiting.push(response);
      else response.end(answerTo(request.url ?? "", JSON.parse(body)));
    });
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    return desk;
  }

  stop(): void {
    this.server.closeAllConnections();
    this.server.close();
  }

  /** The tools that ask it. @param seconds after which one is given up */
  tools(seconds = 20): Tool[] {
    const { port } = this.server.address() as AddressInfo;
    const answer = (path: string) =>
      ({
        by: "address",
        method: "POST",
        url: `http://127.0.0.1:${port}${path}`,
        allowsThisMachine: true,
      }) as const;
    return [
      {
        name: "fares",
        description: "What a crossing costs.",
        parameters: {
          type: "object",
          properties: { place: { type: "string", enum: ["Brindle", "Tansy Holm", "Far Skerry"] } },
          required: ["place"],
        },
        answer: answer("/fares"),
        seconds,
      },
      {
        name: "tides",
        description: "When high water is.",
        parameters: { type: "object", properties: {} },
        answer: answer("/tides"),
        seconds,
      },
    ];
  }
}

function answerTo(path: string, { place }: { place?: string }): string {
  if (path === "/tides") return "High water is at 9:12.";
  return JSON.stringify({ price: place === "Brindle" ? "4.00" : "6.00", currency: "EUR" });
}

/** A question that asks for two tools at once, and for one of them again after that. */
export const askingTwice = "What are the fares to Brindle and to Tansy Holm, and when are the tides?";
