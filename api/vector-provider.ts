import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { setTimeout as rest } from "node:timers/promises";
import { vectorOf } from "../src/standins/engine/vectors";

/** What a provider of vectors does wrong, if anything. */
export type VectorFault =
  | "none"
  | "status 500"
  | "status 401"
  | "not JSON"
  | "one too few"
  | "no numbers"
  | "nothing but zeros"
  | "another length"
  | "other vectors"
  | "hangs"
  | "gone";

/** A provider that makes vectors and nothing else, and counts the texts that it is asked for. */
export class VectorProvider {
  /** Every text that it was asked for, in order; and how many texts each call had. */
  readonly texts: string[] = [];
  readonly calls: number[] = [];
  fault: VectorFault = "none";
  /** After so many calls it answers no more, until this is taken back. */
  hangsAfter: number | undefined;
  isHanging = false;

  private constructor(
    private readonly server: Server,
    readonly address: string,
  ) {}

  static async start(): Promise<VectorProvider> {
    const made: { provider?: VectorProvider } = {};
    const server = createServer(async (request, response) => {
      const { provider } = made;
      let asked = "";
      for await (const part of request) asked += part;
      const { input = [] } = JSON.parse(asked || "{}") as { input?: string[] };
      if (!provider || !request.url?.endsWith("/embeddings")) {
        response.writeHead(404).end();
        return;
      }
      const { fault } = provider;
      if (fault === "gone") {
        request.socket.destroy();
        return;
      }
      if (provider.hangsAfter !== undefined && provider.calls.length >= provider.hangsAfter) {
        provider.isHanging = true;
        return;
      }
      if (fault === "hangs") await rest(60_000, undefined, { ref: false });
      if (fault === "status 500" || fault === "status 401") {
        response.writeHead(Number(fault.slice(7)), { "content-type": "application/json" });
        response.end(JSON.stringify({ error: { message: "The loom is broken." } }));
        return;
      }
      provider.calls.push(input.length);
      provider.texts.push(...input);
      response.writeHead(200, { "content-type": "application/json" });
      if (fault === "not JSON") {
        response.end("<html>Down for the tide</html>");
        return;
      }
      const data = input.map((text, index) => ({ index, embedding: embedded(text, fault) }));
      if (fault === "one too few") data.pop();
      response.end(JSON.stringify({ data, usage: { prompt_tokens: input.length * 7 } }));
    });
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    made.provider = new VectorProvider(server, `http://127.0.0.1:${(server.address() as AddressInfo).port}`);
    return made.provider;
  }

  /** Texts that it was asked for more than once, but for one that is always asked for. */
  twice(): string[] {
    const counts = new Map<string, number>();
    for (const text of this.texts) counts.set(text, (counts.get(text) ?? 0) + 1);
    const most = Math.max(...counts.values(), 0);
    return [...counts].flatMap(([text, count]) => (count > 1 && count < most ? [text] : []));
  }

  stop(): void {
    this.server.closeAllConnections();
    this.server.close();
  }
}

function embedded(text: string, fault: VectorFault): unknown {
  const vector = vectorOf(text);
  if (fault === "no numbers") return vector.map(String);
  if (fault === "nothing but zeros") return vector.map(() => 0);
  if (fault === "another length") return [...vector, 0.1];
  return fault === "other vectors" ? vector.map((number, at) => (at % 2 === 0 ? -number : number)) : vector;
}
