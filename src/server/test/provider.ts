import { createServer as createHttp, type RequestListener, type Server } from "node:http";
import { createServer as createHttps } from "node:https";
import type { AddressInfo } from "node:net";
import { usualLimits } from "@/core/provider/limits";

/** A small server of a test's own, on a port of its own. */
export class TestProvider {
  private constructor(
    private readonly server: Server,
    readonly address: string,
  ) {}

  static async start(answer: RequestListener, secure?: { key: string; cert: string }): Promise<TestProvider> {
    const server = secure ? createHttps(secure, answer) : createHttp(answer);
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    const { port } = server.address() as AddressInfo;
    return new TestProvider(server as Server, `${secure ? "https" : "http"}://127.0.0.1:${port}`);
  }

  stop(): void {
    this.server.closeAllConnections();
    this.server.close();
  }
}

/** What a test's provider is wired with, where it does not matter. */
export const plainWiring = {
  name: "Test",
  headers: {},
  extras: {},
  values: {},
  signing: null,
  limits: usualLimits,
  retries: 0,
  records: false,
  atOnce: null,
  proxy: null,
  proxyLogin: null,
  caFile: null,
};

/** The body of a request as text. */
export async function bodyOf(request: AsyncIterable<Buffer>): Promise<string> {
  const parts: Buffer[] = [];
  for await (const part of request) parts.push(part);
  return Buffer.concat(parts).toString("utf8");
}
